import { fileFormat, recogniseFile, type FileSettings } from '../formats/files';
import type { FileRow } from '../formats/files/format';
import { joined } from '../formats/files/joined';
import { sheetNames } from '../formats/files/sheetFile';
import { NotUnpacked, unpacked } from '../formats/files/unpacked';

/** The beginning of a file: how it is read, and its first records. */
export interface FileHead {
  /** How it is read; null where it is of no known kind. */
  readonly file: FileSettings | null;
  readonly rows: readonly FileRow[];
  /** The names of the sheets of a workbook; none of another file. */
  readonly sheets: readonly string[];
  /** Why it cannot be read; blank where it can. */
  readonly problem: string;
}

/** A file of which the beginning is looked at. */
export interface BeginningAsked {
  readonly name: string;
  readonly bytes: Uint8Array;
  /** Whether these bytes are all there is. A workbook is read only as a whole. */
  readonly whole: boolean;
  /** How it is to be read; without it that is found out. */
  readonly file?: FileSettings;
}

/** Records that are shown of a beginning, and how much of it is unpacked to find them, in bytes. */
const [mostRows, mostBytes] = [50, 400_000];

/** Returns the beginning of a file. */
export async function headOfFile({ name, bytes, whole, file: asked }: BeginningAsked): Promise<FileHead> {
  const none = (problem: string): FileHead => ({ file: asked ?? null, rows: [], sheets: [], problem });
  const parts: Uint8Array[] = [];
  let length = 0;
  let isWhole = whole;
  try {
    for await (const part of unpacked(once(bytes))) {
      parts.push(part);
      length += part.length;
      if (length > mostBytes && !isWorkbookPart(parts)) {
        isWhole = false;
        break;
      }
    }
  } catch (thrown) {
    if (!(thrown instanceof NotUnpacked)) throw thrown;
    // Of a file that goes on, the end of its beginning is cut off.
    if (whole || parts.length === 0) return none(thrown.message);
    isWhole = false;
  }
  if (length === 0) return none('The file is empty.');
  const start = joined(parts);
  const file = asked ?? recogniseFile({ name, bytes: start, whole: isWhole });
  if (!file)
    return none(
      'It is of no kind that is read here: CSV, XLSX, JSON, JSON lines, XML, or tagged records (ISO 2709).',
    );
  const rows: FileRow[] = [];
  for await (const some of fileFormat(file).read(once(start), file)) {
    rows.push(...some.slice(0, mostRows - rows.length));
    if (rows.length === mostRows) break;
  }
  // The last record of a beginning may go on beyond it.
  if (!isWhole && rows.length < mostRows) rows.pop();
  const sheets = file.kind === 'xlsx' ? sheetNames(start) : [];
  return { file, rows, sheets, problem: '' };
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield await Promise.resolve(bytes);
}

const isWorkbookPart = ([first]: readonly Uint8Array[]) => first?.[0] === 0x50 && first[1] === 0x4b;
