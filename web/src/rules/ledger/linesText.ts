import { writePolicies, type MappingLine, type ReferenceByKey, type WritePolicy } from '@vast-knot/core';

/**
 * Lines as text for the clipboard: one row each, its parts behind tabs, so that a spreadsheet takes them and gives them
 * back: field, formula, policy, and the natural key of a reference as JSON.
 */
export function linesToText(lines: readonly MappingLine[]): string {
  return lines
    .map(({ field, formula, policy, reference }) =>
      [
        field,
        formula.replaceAll(/[\t\r\n]+/g, ' '),
        policy,
        ...(reference ? [JSON.stringify(reference)] : []),
      ].join('\t'),
    )
    .join('\n');
}

/** Reads lines from pasted text; undefined when it has not at least a field and a formula in every row. */
export function linesFromText(text: string): readonly MappingLine[] | undefined {
  const rows = text.split(/\r?\n/).filter((row) => row.trim() !== '');
  const lines = rows.map((row): MappingLine | undefined => {
    const [field = '', formula = '', policy = '', reference = ''] = row
      .split('\t')
      .map((part) => part.trim());
    if (field === '' || formula === '') return undefined;
    const key = readReference(reference);
    return { field, formula, policy: isPolicy(policy) ? policy : 'always', ...(key && { reference: key }) };
  });
  const read = lines.flatMap((line) => line ?? []);
  return read.length > 0 && read.length === rows.length ? read : undefined;
}

function isPolicy(text: string): text is WritePolicy {
  return writePolicies.some((policy) => policy === text);
}

function readReference(text: string): ReferenceByKey | undefined {
  if (!text.startsWith('{')) return undefined;
  try {
    // The server checks the shape when the draft is saved.
    return JSON.parse(text) as ReferenceByKey;
  } catch {
    // Not ours: the line is taken without it.
    return undefined;
  }
}
