import { fileFormat, type FileSettings } from '../formats/files';
import { leafFields, type RecordType } from '../model/system';
import { unknownField } from './lay';
import { formulaOf, type LayoutLine } from './layout';

/** Lines that were read from a text, or what is wrong with it, line by line. */
export type LayoutTextRead =
  | { readonly ok: true; readonly lines: readonly LayoutLine[] }
  | { readonly ok: false; readonly problems: readonly string[] };

/** Writes lines as two columns, parted by a tab, as a spreadsheet takes them: the field, and where its value comes from. */
export function layoutText(lines: readonly LayoutLine[]): string {
  return lines.map(({ field, from }) => `${field}\t${from}\n`).join('');
}

/**
 * Reads two columns, parted by a tab, a semicolon or a comma: the field by its name or label, and where its value comes from. A name that nobody has is
 * refused with its line; a first line of titles is passed over. `known` are the places of the file at hand, where all of them are known.
 */
export function readLayoutText(
  text: string,
  type: RecordType,
  { file, known }: { readonly file: FileSettings; readonly known?: ReadonlySet<string> },
): LayoutTextRead {
  const format = fileFormat(file);
  const leaves = leafFields(type.fields);
  const problems: string[] = [];
  const lines: LayoutLine[] = [];
  const seen = new Set<string>();
  for (const [at, line] of text.split(/\r\n?|\n/).entries()) {
    if (line.trim() === '') continue;
    const wrong = (because: string) => problems.push(`Line ${at + 1}: ${because}`);
    const parted = /^([^\t;,]*)[\t;,](.*)$/.exec(line);
    if (!parted) {
      wrong(
        `“${line.trim().slice(0, 60)}” has one column; two are wanted, the field and where its value comes from.`,
      );
      continue;
    }
    const [name, from] = [unquoted(parted[1] ?? ''), unquoted(parted[2] ?? '')];
    if (at === 0 && /^(target )?field$/i.test(name)) continue;
    const leaf =
      leaves.find(({ path }) => path === name) ??
      leaves.find(({ label }) => label.toLowerCase() === name.toLowerCase());
    if (!leaf) {
      wrong(
        unknownField(
          type,
          name,
          leaves.map(({ path }) => path),
        ),
      );
      continue;
    }
    if (seen.has(leaf.path)) wrong(`“${leaf.label}” stands in an earlier line already.`);
    seen.add(leaf.path);
    if (from !== '' && formulaOf({ from }) === undefined) {
      const address = format.address(from);
      if (!address.ok) wrong(address.because);
      else if (known && !known.has(address.address.text)) wrong(`The file has no “${from}”.`);
    }
    lines.push({ field: leaf.path, from });
  }
  if (problems.length === 0 && lines.length === 0) problems.push('There is no line in it.');
  return problems.length > 0 ? { ok: false, problems } : { ok: true, lines };
}

/** A spreadsheet puts a cell in quotes that holds a tab or a quote. */
function unquoted(cell: string): string {
  const text = cell.trim();
  return /^".*"$/s.test(text) ? text.slice(1, -1).replaceAll('""', '"') : text;
}
