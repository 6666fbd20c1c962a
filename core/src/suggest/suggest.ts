import { fitOf } from '../check/misfitType';
import { isBlank } from '../formula/compare';
import { compile, type Formula } from '../formula/compile';
import { encodeFor } from '../formula/encode';
import { FormulaError } from '../formula/error';
import { printPath } from '../formula/print';
import type { Env, Scope } from '../formula/scope';
import { isBlankJson, sameValue } from '../model/equal';
import { readPath, type JsonObject } from '../model/json';
import { leafFields, type Field, type LeafField } from '../model/system';
import { nameSimilarity } from './similarity';

/** A line that is proposed for a target field without one. */
export interface Suggestion {
  readonly field: string;
  readonly formula: string;
  /** 0 to 1: how sure the proposal is. */
  readonly confidence: number;
  /** What speaks for it, in words. */
  readonly because: string;
}

/** A record that a rule would write, with what its formulas see: what stands there now is evidence for a mapping. */
export interface Evidence {
  readonly env: Env;
  readonly target: JsonObject;
}

/** Below this nothing is proposed. */
const leastConfidence = 0.45;

/** Ways in which values of one system commonly stand in another; `%` is the source. */
const turns: readonly { readonly formula: string; readonly words: string }[] = [
  { formula: '%', words: '' },
  { formula: 'TRIM(%)', words: 'trimmed' },
  { formula: 'UPPER(%)', words: 'in capitals' },
  { formula: 'LOWER(%)', words: 'in small letters' },
  { formula: 'PHONE(%, "GB")', words: 'as international number' },
  { formula: 'COUNTRY(%, "alpha-3")', words: 'as code of three letters' },
  { formula: 'COUNTRY(%, "alpha-2")', words: 'as code of two letters' },
  { formula: 'EMAILDOMAIN(%)', words: 'its domain' },
  { formula: '% * 100', words: 'in hundredths' },
  { formula: '% / 100', words: 'from hundredths' },
];

interface Candidate {
  readonly source: LeafField;
  readonly formula: Formula;
  readonly words: string;
  readonly plain: boolean;
  /** What the formula gives for each piece of evidence. */
  readonly values: readonly ReturnType<Formula['run']>[];
}

/** Returns the fields that a formula can start from, each with its name as a formula writes it. */
function sourcesOf(scope: Scope): readonly LeafField[] {
  const of = (fields: readonly Field[], prefix: string) =>
    leafFields(fields)
      .filter(({ field }) => !field.keptBySystem)
      .map((leaf) => ({ ...leaf, path: prefix + printPath(leaf.path.split('.')) }));
  const found = [...scope.found].flatMap(([alias, fields]) => of(fields, `${alias}.`));
  return [...of(scope.record, ''), ...found];
}

function candidatesFrom(scope: Scope, evidence: readonly Evidence[]): readonly Candidate[] {
  const formulas: { source: LeafField; text: string; words: string; plain: boolean; counts?: string }[] = [];
  for (const source of sourcesOf(scope)) {
    for (const { formula, words } of evidence.length > 0 ? turns : turns.slice(0, 1)) {
      formulas.push({ source, text: formula.replace('%', () => source.path), words, plain: formula === '%' });
    }
    for (const [name, { table, keyCount }] of scope.tables) {
      if (keyCount !== 1) continue;
      for (const column of table.columns.filter(({ key }) => !key)) {
        const text = `TABLE("${name}", ${source.path}, "${column.name}")`;
        // What a table gives for a key that it does not have says nothing about the key.
        const counts = `INTABLE("${name}", ${source.path})`;
        formulas.push({ source, text, words: `through “${name}”`, plain: false, counts });
      }
    }
  }
  return formulas.flatMap(({ source, text, words, plain, counts }): Candidate[] => {
    const compiled = compile(text, scope);
    if (!compiled.ok) return [];
    const { formula } = compiled;
    const counted = counts === undefined ? undefined : compile(counts, scope);
    const values = evidence.map(({ env }) =>
      counted?.ok && counted.formula.run(env) !== true ? null : formula.run(env),
    );
    return [{ source, formula, words, plain, values }];
  });
}

/** How many of the targets hold what a candidate gives; blanks on either side say nothing. */
function agreement(candidate: Candidate, target: LeafField, evidence: readonly Evidence[]) {
  let agree = 0;
  let differ = 0;
  evidence.forEach(({ target: record }, at) => {
    const value = candidate.values[at] ?? null;
    const held = readPath(record, target.path);
    if (isBlankJson(held) || isBlank(value)) return;
    const encoded = value instanceof FormulaError ? undefined : encodeFor(target.field, value);
    if (encoded && 'json' in encoded && sameValue(target.field, held, encoded.json)) agree++;
    else differ++;
  });
  return { agree, differ };
}

function judge(
  candidate: Candidate,
  target: LeafField,
  evidence: readonly Evidence[],
): Suggestion | undefined {
  const fit = fitOf(candidate.formula.type, target.field);
  if (fit.fit === 'impossible' || fit.fit === 'misshapen') return undefined;
  const { source } = candidate;
  // Words of the whole path and label count, with the last step counted again: it says most.
  const lastStep = (path: string) => path.split('.').at(-1) ?? path;
  const names = Math.max(
    nameSimilarity(lastStep(source.path), lastStep(target.path)),
    nameSimilarity(source.label, target.label),
    nameSimilarity(source.path, target.path),
  );
  const { agree, differ } = agreement(candidate, target, evidence);
  const known = agree + differ;
  // A single equal value may be chance, several are not.
  const share = known === 0 ? 0 : agree / known;
  const weight = Math.min(1, known / 3);
  if (!candidate.plain && agree === 0) return undefined;
  const type = fit.fit === 'exact' ? 1 : fit.fit === 'safe' ? 0.9 : 0.6;
  const byName = names * type;
  const confidence =
    known === 0
      ? byName * 0.95
      : byName * (1 - 0.6 * weight) + share * 0.6 * weight * (names > 0.3 ? 1 : 0.8);
  const simple = candidate.plain ? confidence : confidence - 0.02;
  if (simple < leastConfidence) return undefined;
  const formula =
    fit.fit === 'converted' || fit.fit === 'lossy'
      ? fit.convert.replace('%', () => candidate.formula.source)
      : candidate.formula.source;
  const reasons = [
    ...(names >= 0.99 ? ['same name'] : names >= 0.5 ? [`name like “${source.label}”`] : []),
    ...(candidate.words === '' ? [] : [candidate.words]),
    ...(known > 0 ? [`${agree} of ${known} ${known === 1 ? 'value' : 'values'} the same`] : []),
    ...(fit.fit === 'converted' || fit.fit === 'lossy' ? ['converted'] : []),
  ];
  return {
    field: target.path,
    formula,
    confidence: Math.round(Math.min(1, simple) * 100) / 100,
    because: reasons.join(', '),
  };
}

/**
 * Proposes a line for every target field that has none and can be written, from names, labels, types and the values that
 * stand on both sides now; the most certain first.
 */
export function suggestLines(
  scope: Scope,
  mapped: ReadonlySet<string>,
  evidence: readonly Evidence[],
): readonly Suggestion[] {
  const targets = leafFields(scope.target ?? []).filter(
    ({ field, path }) => !field.readOnly && !field.keptBySystem && !mapped.has(path),
  );
  const candidates = candidatesFrom(scope, evidence);
  return targets
    .flatMap((target): Suggestion[] => {
      let best: Suggestion | undefined;
      for (const candidate of candidates) {
        const judged = judge(candidate, target, evidence);
        if (judged && (!best || judged.confidence > best.confidence)) best = judged;
      }
      return best ? [best] : [];
    })
    .sort((a, b) => b.confidence - a.confidence);
}
