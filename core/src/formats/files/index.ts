import Joi from 'joi';
import { csvFile, type CsvSettings } from './csvFile';
import { jsonFile, type JsonSettings } from './jsonFile';
import { jsonLinesFile, type JsonLinesSettings } from './jsonLinesFile';
import { sheetFile, type SheetSettings } from './sheetFile';
import { taggedFile, type TaggedSettings } from './taggedFile';
import { xmlFile, type XmlSettings } from './xmlFile';
import type { Beginning, FileFormat } from './format';

/** How a file of any kind is read. */
export type FileSettings =
  CsvSettings | SheetSettings | JsonSettings | JsonLinesSettings | XmlSettings | TaggedSettings;

/** Every kind of file whose records can be read. The first that recognises a file is taken: what is plain to see comes before what is guessed. */
export const fileFormats: readonly FileFormat<FileSettings>[] = [
  sheetFile,
  taggedFile,
  xmlFile,
  jsonLinesFile,
  jsonFile,
  csvFile,
];

/** Returns the kind of file that settings are for. */
export function fileFormat({ kind }: Pick<FileSettings, 'kind'>): FileFormat<FileSettings> {
  const format = fileFormats.find((each) => each.kind === kind);
  if (!format) throw new RangeError(`There is no kind of file “${kind}”.`);
  return format;
}

/** How a file is read must be as its kind says. */
export const fileSettingsSchema: Joi.AlternativesSchema<FileSettings> = Joi.alternatives().conditional(
  '.kind',
  {
    switch: fileFormats.map(({ kind, settings }) => ({ is: kind, then: settings })),
    otherwise: Joi.object({ kind: Joi.valid(...fileFormats.map(({ kind }) => kind)).required() }).unknown(),
  },
);

/** Returns how a file seems to be read; undefined where it is of no known kind. */
export function recogniseFile(beginning: Beginning): FileSettings | undefined {
  for (const format of fileFormats) {
    const found = format.recognise(beginning);
    if (found) return found;
  }
  return undefined;
}
