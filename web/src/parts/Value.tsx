import { printJson, type Json } from '@vast-knot/core';

type Tone = 'plain' | 'will' | 'settled' | 'wrong';

/** A stored value as it is: mono, with blank said in words. */
export function Value({ json, tone = 'plain' }: { readonly json: Json | undefined; readonly tone?: Tone }) {
  if (json === null || json === undefined || json === '') {
    return <span className={`value blank ${tone === 'will' ? 'will' : ''}`}>blank</span>;
  }
  return <span className={`value ${tone}`}>{textOf(json)}</span>;
}

/** Returns a value on one line. */
export function textOf(json: Json): string {
  if (typeof json === 'string') return json;
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
