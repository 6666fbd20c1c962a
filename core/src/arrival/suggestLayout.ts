import type { FileFormat, ShownPart } from '../formats/files/format';
import type { JsonObject } from '../model/json';
import { leafFields, type RecordType } from '../model/system';
import { nameSimilarity } from '../suggest/similarity';
import type { LayoutLine } from './layout';

/** A place in the records of a file, with what stands there in some of them. */
export interface KnownPlace {
  readonly address: string;
  readonly label: string;
  readonly examples: readonly string[];
}

/** Places that are told of: a record with more of them is no record that somebody lays out by hand. */
const mostPlaces = 3000;
/** Examples of one place. */
const mostExamples = 5;

/** Returns the places of some records of a file that hold a value, in the order in which they are met. */
export function knownPlaces(
  format: Pick<FileFormat, 'shown'>,
  values: readonly JsonObject[],
): readonly KnownPlace[] {
  const places = new Map<string, { readonly label: string; readonly examples: Set<string> }>();
  const visit = ({ address, label, text, parts }: ShownPart) => {
    if (address !== undefined && text !== undefined && (places.size < mostPlaces || places.has(address))) {
      const place = places.get(address) ?? { label, examples: new Set<string>() };
      places.set(address, place);
      if (text !== '' && place.examples.size < mostExamples) place.examples.add(text);
    }
    parts?.forEach(visit);
  };
  for (const value of values) format.shown(value).forEach(visit);
  return [...places].map(([address, { label, examples }]) => ({ address, label, examples: [...examples] }));
}

/** How alike names must be to be proposed. */
const alike = 0.6;

/** Proposes lines for the fields whose names or labels are those of places in the file, or come near to them. */
export function suggestLayout(type: RecordType, places: readonly KnownPlace[]): readonly LayoutLine[] {
  const taken = new Set<string>();
  return leafFields(type.fields).map(({ path, label }) => {
    const likeness = ({ address, label: name }: KnownPlace) =>
      Math.max(...[path, label].flatMap((own) => [nameSimilarity(own, name), nameSimilarity(own, address)]));
    const [best] = places
      .filter(({ address }) => !taken.has(address))
      .map((place) => ({ place, likeness: likeness(place) }))
      .filter((each) => each.likeness >= alike)
      .sort((one, other) => other.likeness - one.likeness);
    if (best) taken.add(best.place.address);
    return { field: path, from: best?.place.address ?? '' };
  });
}
