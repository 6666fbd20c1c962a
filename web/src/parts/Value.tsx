import { isBlankJson, isJsonObject, printJson, type Json } from '@vast-knot/core';

export type Tone = 'plain' | 'will' | 'settled' | 'wrong';

interface ValueProps {
  readonly json: Json | undefined;
  readonly tone?: Tone;
  /** Shows nothing for blank, where a column of blanks would be in the way. */
  readonly quiet?: boolean;
}

/** A stored value as it is: mono, with blank said in words. */
export function Value({ json, tone = 'plain', quiet = false }: ValueProps) {
  if (isBlankJson(json)) {
    if (quiet) return null;
    return <span className={`value blank ${tone === 'will' ? 'will' : ''}`}>blank</span>;
  }
  return <span className={`value ${tone}`}>{textOf(json)}</span>;
}

/** Returns a value on one line; of an object in a list, what its fields hold. */
export function textOf(json: Json): string {
  if (typeof json === 'string') return json;
  if (Array.isArray(json) && json.some((element) => isJsonObject(element)))
    return json
      .map((element) =>
        isJsonObject(element)
          ? Object.values(element)
              .map((one) => textOf(one ?? ''))
              .join(' ')
          : textOf(element),
      )
      .join(' · ');
  if (Array.isArray(json)) return json.map(textOf).join(' · ');
  return typeof json === 'object' && json !== null ? printJson(json) : String(json);
}

/** Before and after, the change in the warm accent. */
export function Change({
  before,
  after,
}: {
  readonly before: Json | undefined;
  readonly after: Json | undefined;
}) {
  return (
    <>
      <Value json={before} />
      <span className="arrow" aria-label="becomes">
        →
      </span>
      <Value json={after} tone="will" />
    </>
  );
}
