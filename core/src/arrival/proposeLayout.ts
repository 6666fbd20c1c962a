import { fileFormat, type FileSettings } from '../formats/files';
import type { JsonObject } from '../model/json';
import { leafFields, type RecordType } from '../model/system';
import { formulaOf, type Layout, type LayoutLine } from './layout';
import { knownPlaces, suggestLayout } from './suggestLayout';

/** A record type whose records come as files. */
export interface InletType {
  readonly system: string;
  readonly type: RecordType;
  /** How files of this kind are laid out as a rule; absent where nobody said. */
  readonly usual?: readonly LayoutLine[];
}

/** What a layout is proposed from: how the file is read, some of its records, and what they may become. */
export interface ProposedFrom {
  readonly file: FileSettings;
  readonly values: readonly JsonObject[];
  readonly types: readonly InletType[];
}

/** How a file may be laid out, and for which record type. */
export interface Proposed {
  readonly system: string;
  readonly recordType: string;
  readonly layout: Layout;
}

/**
 * Returns how a file that just came is laid out: as files of its kind are, where somebody said so and that finds as much in it as its names do; otherwise
 * as the names of its places say, for the record type of which most fields are found. Undefined where none is found of several types; of one alone it is
 * for that.
 */
export function proposeLayout({ file, values, types }: ProposedFrom): Proposed | undefined {
  const places = knownPlaces(fileFormat(file), values);
  const known = new Set(places.map(({ address }) => address));
  const found = (lines: readonly LayoutLine[]) => {
    const named = lines.filter(({ from }) => known.has(from.trim())).length;
    // A formula finds something where lines that name their places do.
    return named === 0 ? 0 : named + lines.filter((line) => formulaOf(line) !== undefined).length;
  };
  const proposed = types.map(({ system, type, usual = [] }) => {
    const guessed = suggestLayout(type, places);
    const isUsual = found(usual) > 0 && found(usual) >= found(guessed);
    const lines = isUsual ? usual : guessed;
    const share = found(lines) / leafFields(type.fields).length;
    return { system, recordType: type.name, lines, isUsual, share };
  });
  const [best] = proposed.sort(
    (one, other) => Number(other.isUsual) - Number(one.isUsual) || other.share - one.share,
  );
  if (!best || (best.share === 0 && types.length > 1)) return undefined;
  const { system, recordType, lines } = best;
  return { system, recordType, layout: { file, lines } };
}
