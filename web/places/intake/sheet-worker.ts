// Reads tables away from the page, which can end it when it takes too long.
import {
  MotionError,
  readJointTable,
  sampleTable,
  type TableColumns,
  type TableSample,
  writeJointTable,
} from '@velvet-reel/motion';
import { expose } from 'comlink';
import { sheetRows } from './sheet';

export interface TableReader {
  sheetRows: (bytes: ArrayBuffer) => Promise<string[][]>;
  sampleTable: (bytes: ArrayBuffer) => Promise<TableSample>;
  jointTable: (bytes: ArrayBuffer, columns: TableColumns) => Promise<string>;
}

/** What is wrong with a table, with its line: places do not cross from one thread to another. */
function told<T>(read: () => T): T {
  try {
    return read();
  } catch (error) {
    throw error instanceof MotionError ? new Error(error.sentence()) : error;
  }
}

const reader: TableReader = {
  sheetRows: async (bytes) => sheetRows(bytes),
  sampleTable: async (bytes) => told(() => sampleTable(new Uint8Array(bytes))),
  jointTable: async (bytes, columns) => told(() => writeJointTable(readJointTable(new Uint8Array(bytes), columns))),
};
expose(reader);
