// Reads tables away from the page, which can end it when it takes too long.
import { readJointTable, sampleTable, type TableColumns, type TableSample, writeJointTable } from '@velvet-reel/motion';
import { expose } from 'comlink';
import { sheetRows } from './sheet';

export interface TableReader {
  sheetRows: (bytes: ArrayBuffer) => Promise<string[][]>;
  sampleTable: (bytes: ArrayBuffer) => Promise<TableSample>;
  jointTable: (bytes: ArrayBuffer, columns: TableColumns) => Promise<string>;
}

const reader: TableReader = {
  sheetRows: async (bytes) => sheetRows(bytes),
  sampleTable: async (bytes) => sampleTable(new Uint8Array(bytes)),
  jointTable: async (bytes, columns) => writeJointTable(readJointTable(new Uint8Array(bytes), columns)),
};
expose(reader);
