import { workbookOf } from '../formats/written/sheetWriter';
import type { Json } from '../model/json';
import { digest, type Specification } from './specification';

/** Returns a specification as a workbook: the rules, the lines of their mappings, and the tables that they read. */
export function specificationSheets({ rules, tables }: Specification): Promise<Uint8Array> {
  const overview: readonly Json[][] = rules.map(
    ({ name, version, starts, onlyIf, finds, tables: read, note }) => [
      name,
      version === 0 ? 'as edited' : `version ${version}`,
      starts,
      onlyIf,
      finds.join('\n'),
      read.join(', '),
      note,
    ],
  );
  const lines: readonly Json[][] = rules.flatMap(({ name, starts, parts }) =>
    parts.flatMap(({ does, system, recordType, onlyIf, lines: of }) =>
      of.map(({ sources, how, label, code, type, when, examples }) => [
        name,
        starts,
        sources.join('\n'),
        how,
        digest({ does, system, recordType }),
        system,
        recordType,
        label,
        code,
        type,
        when,
        onlyIf,
        examples.map(({ value, sample }) => `${value} (${sample})`).join('\n'),
      ]),
    ),
  );
  return workbookOf([
    {
      name: 'Rules',
      titles: ['Rule', 'Version', 'When', 'Only if', 'Finds', 'Tables', 'Note'],
      rows: overview,
    },
    {
      name: 'Mapping',
      titles: [
        'Rule',
        'When',
        'From',
        'How',
        'What it does',
        'Target system',
        'Target record type',
        'Target field',
        'Code',
        'Type',
        'Written',
        'Only where',
        'Examples',
      ],
      rows: lines,
    },
    ...tables.map(({ name, columns, rows }) => ({ name, titles: columns, rows })),
  ]);
}
