import $RefParser from '@apidevtools/json-schema-ref-parser';
import { CORE_SCHEMA, load as loadYaml } from 'js-yaml';
import {
  isJsonObject,
  parseJson,
  proposeFromJsonSchema,
  proposeFromOpenApi,
  proposeFromRecords,
  type Json,
  type Proposal,
} from '@vast-knot/core';

/** A text to learn from. */
export type LearnAsked =
  | {
      readonly from: 'openapi' | 'schema';
      readonly text: string;
      /** Where it was read; a name for what was pasted. */
      readonly address: string;
      /** What its references lead to elsewhere, by address, as far as it was fetched. */
      readonly elsewhere: Readonly<Record<string, string>>;
    }
  | {
      readonly from: 'records';
      readonly text: string;
      readonly name: string;
      readonly path: string | undefined;
      readonly headers: Readonly<Record<string, string>>;
    };

/** What was learnt; what has to be fetched first; or why nothing was. */
export type Learnt =
  | { readonly is: 'learnt'; readonly proposal: Proposal }
  | { readonly is: 'wanting'; readonly addresses: readonly string[] }
  | { readonly is: 'nothing'; readonly because: string };

/** Learns what a text tells of the record types of a system. */
export async function learn(asked: LearnAsked): Promise<Learnt> {
  const read = readText(asked.text);
  if (!read.ok) return { is: 'nothing', because: read.because };
  if (asked.from === 'records') {
    const { name, path, headers } = asked;
    return learnt(
      proposeFromRecords([{ body: read.json, name, ...(path !== undefined && { path }), headers }]),
    );
  }
  const { address, elsewhere } = asked;
  const outside = outsideReferences(read.json, address);
  const wanting = new Set(outside.filter((each) => !Object.hasOwn(elsewhere, each)));
  for (const [at, text] of Object.entries(elsewhere)) {
    const inner = readText(text);
    if (!inner.ok) return { is: 'nothing', because: `${at}, to which it refers: ${inner.because}` };
    for (const each of outsideReferences(inner.json, at))
      if (each !== withoutFragment(address) && !Object.hasOwn(elsewhere, each)) wanting.add(each);
  }
  if (wanting.size > 0) return { is: 'wanting', addresses: [...wanting] };
  const whole = outside.length === 0 ? read.json : await bundled(read.json, address, elsewhere);
  return learnt(asked.from === 'openapi' ? proposeFromOpenApi(whole, address) : proposeFromJsonSchema(whole));
}

type Proposed =
  { readonly ok: true; readonly proposal: Proposal } | { readonly ok: false; readonly because: string };

function learnt(proposed: Proposed): Learnt {
  return proposed.ok
    ? { is: 'learnt', proposal: proposed.proposal }
    : { is: 'nothing', because: proposed.because };
}

type ReadText = { readonly ok: true; readonly json: Json } | { readonly ok: false; readonly because: string };

/** Reads JSON, or YAML 1.2, of which JSON is a part. */
function readText(text: string): ReadText {
  if (text.trim() === '') return { ok: false, because: 'It is empty.' };
  const looksJson = /^\s*[{[]/.test(text);
  try {
    return { ok: true, json: parseJson(text.replace(/^\ufeff/, '')) };
  } catch (thrown) {
    if (looksJson) return { ok: false, because: `It is no JSON: ${firstLine(thrown)}.` };
  }
  if (/^\s*</.test(text))
    return { ok: false, because: 'It is a page (HTML or XML), and no document of this kind.' };
  try {
    const json = asJson(loadYaml(text, { schema: CORE_SCHEMA }));
    if (json === undefined)
      return { ok: false, because: 'It is much larger than it looks, because of its aliases.' };
    return typeof json === 'object' && json !== null
      ? { ok: true, json }
      : { ok: false, because: 'It is neither JSON nor YAML.' };
  } catch (thrown) {
    return { ok: false, because: `It is neither JSON nor YAML: ${firstLine(thrown)}.` };
  }
}

/** Values that a document may have; aliases can make millions of a few lines. */
const mostValues = 2_000_000;

/** Returns what YAML holds as JSON, with what stands there by an alias written out; undefined where that is too much. */
function asJson(yaml: unknown): Json | undefined {
  let left = mostValues;
  const copy = (value: unknown, depth: number): Json => {
    if (--left < 0 || depth > 500) return null;
    if (Array.isArray(value)) return value.map((each) => copy(each, depth + 1));
    if (typeof value === 'object' && value !== null)
      return Object.fromEntries(Object.entries(value).map(([name, each]) => [name, copy(each, depth + 1)]));
    return typeof value === 'string' || typeof value === 'boolean' || Number.isFinite(value)
      ? (value as Json)
      : null;
  };
  const json = copy(yaml, 0);
  return left < 0 ? undefined : json;
}

function firstLine(thrown: unknown): string {
  const message = thrown instanceof Error ? thrown.message : String(thrown);
  return (message.split('\n')[0] ?? '').replace(/[.:]$/, '').slice(0, 300);
}

/** Returns the addresses of other documents to which one refers. */
function outsideReferences(document: Json, address: string): readonly string[] {
  const found = new Set<string>();
  const look = (value: Json | undefined, depth: number) => {
    if (typeof value !== 'object' || value === null || depth > 200) return;
    if (Array.isArray(value)) return value.forEach((each) => look(each, depth + 1));
    const ref = isJsonObject(value) ? value['$ref'] : undefined;
    if (typeof ref === 'string' && !ref.startsWith('#') && URL.canParse(ref, baseOf(address)))
      found.add(withoutFragment(new URL(ref, baseOf(address)).href));
    for (const each of Object.values(value)) look(each, depth + 1);
  };
  look(document, 0);
  return [...found];
}

/** What was pasted has no address, and nothing relative to it can be found. */
function baseOf(address: string): string {
  return URL.canParse(address) ? address : 'https://pasted.invalid/document';
}

function withoutFragment(address: string): string {
  return address.split('#')[0] ?? address;
}

/** Returns a document with what it refers to elsewhere brought into it. */
async function bundled(
  document: Json,
  address: string,
  elsewhere: Readonly<Record<string, string>>,
): Promise<unknown> {
  const parser = new $RefParser();
  return parser.bundle(baseOf(address), structuredClone(document) as object, {
    resolve: {
      external: true,
      file: false,
      http: false,
      // Nothing is fetched from here: what it may see was fetched before, through the guarded agent.
      fetched: {
        order: 1,
        canRead: true,
        read: ({ url }: { readonly url: string }) => elsewhere[withoutFragment(url)] ?? '',
      },
    },
  });
}
