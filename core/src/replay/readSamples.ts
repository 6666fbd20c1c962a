import Joi from 'joi';
import { changeEventSchema, type ChangeEvent } from '../model/event';
import { newSampleSchema, type Sample } from '../model/sample';
import type { StoredRecord } from '../model/record';
import { parseJson } from '../model/jsonText';

/** A sample before it has an id; one without records still has to meet them. */
export type SampleDraft = Omit<Sample, 'id' | 'records'> & {
  readonly records?: readonly StoredRecord[];
  /** Its record has only what somebody gave: the rest is as the system has it. */
  readonly partial?: true;
};

/** What a text with samples holds, or what is wrong with it and where. */
export type ReadSamples =
  | { readonly ok: true; readonly drafts: readonly SampleDraft[] }
  | { readonly ok: false; readonly problems: readonly string[] };

/**
 * Samples as people paste them or bring them in a file: a sample, an event, a list of either, the samples of a bundle, or JSON
 * lines with one of them on each.
 */
export function readSamples(text: string): ReadSamples {
  const parsed = parsedTexts(text);
  if ('problem' in parsed) return { ok: false, problems: [parsed.problem] };
  const problems: string[] = [];
  const drafts = parsed.values.flatMap(({ at, json }) =>
    partsOf(json).flatMap((part, index, all): SampleDraft[] => {
      const place = all.length > 1 ? `${at}${at === '' ? '' : ', '}number ${index + 1}` : at;
      const read = draftOf(part);
      if ('draft' in read) return [read.draft];
      problems.push(...read.problems.map((problem) => (place === '' ? problem : `${place}: ${problem}`)));
      return [];
    }),
  );
  if (problems.length === 0 && drafts.length === 0) problems.push('There is no sample in it.');
  return problems.length > 0 ? { ok: false, problems } : { ok: true, drafts };
}

type Parsed =
  | { readonly values: readonly { readonly at: string; readonly json: unknown }[] }
  | { readonly problem: string };

/** Returns one JSON text, or as many as there are lines. */
function parsedTexts(text: string): Parsed {
  try {
    return { values: [{ at: '', json: parseJson(text) }] };
  } catch (whole) {
    const lines = text.split('\n').filter((line) => line.trim() !== '');
    if (lines.length < 2 || !lines[0]?.trim().endsWith('}'))
      return { problem: `It is not JSON: ${sentence(whole)}` };
    const values: { at: string; json: unknown }[] = [];
    for (const [at, line] of lines.entries()) {
      try {
        values.push({ at: `line ${at + 1}`, json: parseJson(line) });
      } catch (thrown) {
        return { problem: `Line ${at + 1} is not JSON: ${sentence(thrown)}` };
      }
    }
    return { values };
  }
}

function sentence(thrown: unknown): string {
  return thrown instanceof Error ? thrown.message : String(thrown);
}

function partsOf(json: unknown): readonly unknown[] {
  if (Array.isArray(json)) return json;
  if (typeof json === 'object' && json !== null && 'samples' in json && Array.isArray(json.samples))
    return json.samples;
  return [json];
}

const draftSchema = newSampleSchema.fork(['records', 'name', 'note'], (part) => part.optional());

function draftOf(json: unknown): { readonly draft: SampleDraft } | { readonly problems: readonly string[] } {
  const isSample = typeof json === 'object' && json !== null && 'event' in json;
  const schema: Joi.Schema = isSample ? draftSchema.append({ id: Joi.any() }) : changeEventSchema;
  const { error } = schema.validate(json, { abortEarly: false, convert: false });
  if (error)
    return {
      problems: error.details.map(({ path, message }) => `at ${path.join('/') || 'the top'}: ${message}.`),
    };
  if (!isSample) {
    const event = json as ChangeEvent;
    return { draft: { ...namedAfter(event), event } };
  }
  const { id: _id, ...sample } = json as SampleDraft & { readonly id?: unknown };
  return { draft: { ...namedAfter(sample.event), ...sample } };
}

/** Returns how a sample is called until somebody names it. */
export function namedAfter(
  { ref, kind }: ChangeEvent,
  called: string = ref.recordType,
): { readonly name: string; readonly note: string } {
  return { name: `${called} ${ref.id} ${kind}`.slice(0, 120), note: '' };
}
