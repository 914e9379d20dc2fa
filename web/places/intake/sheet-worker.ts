// Reads workbooks away from the page, which can end it when it takes too long.
import { expose } from 'comlink';
import { sheetRows } from './sheet';

expose({ sheetRows });
