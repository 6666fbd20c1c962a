import { csvWriter } from './csvWriter';
import { linesWriter } from './linesWriter';
import type { RowWriter } from './rowWriter';
import { sheetWriter } from './sheetWriter';

/** Every format in which lists are given out. */
export const rowWriters: readonly RowWriter[] = [csvWriter, sheetWriter, linesWriter];
