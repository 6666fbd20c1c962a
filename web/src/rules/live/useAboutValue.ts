import { useCallback, useEffect, useRef } from 'react';
import {
  isBlankJson,
  namesOfRecords,
  readPath,
  type Json,
  type JsonObject,
  type RuleBody,
  type Sample,
  type SystemView,
} from '@vast-knot/core';
import { textOf } from '../../parts/Value';
import type { AboutValue } from '../formula/formulaLanguage';
import type { LiveReach } from './useReach';

interface Known {
  readonly body: RuleBody;
  readonly sample: Sample | undefined;
  readonly reach: LiveReach;
  readonly systems: readonly SystemView[];
}

/** Most characters of a value that are told. */
const mostTold = 80;

/** Says of a value that a formula names where it comes from, and what it is for the present sample. Always the same function. */
export function useAboutValue(known: Known): (path: readonly string[]) => AboutValue | undefined {
  const latest = useRef(known);
  useEffect(() => {
    latest.current = known;
  });
  return useCallback((path) => aboutValue(path, latest.current), []);
}

export function aboutValue(path: readonly string[], known: Known): AboutValue | undefined {
  const { body, sample, systems } = known;
  const [first = '', ...rest] = path;
  const named = namesOfRecords(body).includes(first);
  const own = first === 'record' || first === 'before';
  const place = named
    ? [...body.finds, ...body.actions].find((part) => 'alias' in part && part.alias === first)
    : body.trigger;
  if (!place || !('recordType' in place) || (!named && !own && first in others)) return undefined;
  const system = systems.find(({ key }) => key === place.system);
  const type = system?.recordTypes.find(({ name }) => name === place.recordType);
  const from = `${type?.label ?? place.recordType} in ${system?.name ?? place.system}`;
  const record = named
    ? foundUnder(first, known)
    : first === 'before'
      ? sample?.event.before
      : sample?.event.record;
  const held = record ? readPath(record, (named || own ? rest : path).join('.')) : undefined;
  const where = named
    ? `${from}, found as ${first}`
    : first === 'before'
      ? `${from}, before the change`
      : from;
  return record ? { from: where, now: said(held) } : { from: where };
}

/** Names that are of no record whose type is known here. */
const others: Readonly<Record<string, true>> = { target: true, event: true, input: true, item: true };

/** The record that a find reached for the present sample; the first where it reached several. */
function foundUnder(alias: string, { reach }: Known): JsonObject | null | undefined {
  for (const reached of reach.reach?.targets.values() ?? [])
    for (const { env } of reached) if (env.found[alias]) return env.found[alias];
  return undefined;
}

function said(json: Json | undefined): string {
  if (json === undefined || isBlankJson(json)) return 'blank';
  const text = textOf(json);
  return text.length > mostTold ? `${text.slice(0, mostTold)} …` : text;
}
