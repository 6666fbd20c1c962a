import { useCallback, useMemo, useState } from 'react';
import { isWatched, noRecord, type Sample, type SampleSummary, type Trigger } from '@vast-knot/core';
import { useSample, useSamples, useSeveralSamples } from '../api/queries';
import { useAddress } from '../parts/useAddress';

/** Most samples whose values are looked at as evidence. */
const mostRead = 12;

interface RuleSamples {
  /** Those of the triggering record type. */
  readonly list: readonly SampleSummary[];
  readonly present: Sample | undefined;
  /** The first of them, whole. */
  readonly all: readonly Sample[];
  readonly choose: (id: string) => void;
  readonly step: (by: 1 | -1) => void;
}

const noSamples: readonly Sample[] = [];

/** The samples that a rule can be tried on, and the present one, which stands in the address. */
export function useRuleSamples(trigger: Trigger): RuleSamples {
  const { system, recordType, once = false } = trigger;
  // What the rule watched when it was opened; while it is edited, the sample at hand stays.
  const [opened] = useState(trigger);
  const [params, put] = useAddress();
  const known = useSamples().data;
  const list = useMemo(
    () =>
      (known ?? []).filter(
        ({ ref }) => ref.system === system && ref.recordType === recordType && (ref.id === noRecord) === once,
      ),
    [known, system, recordType, once],
  );
  const wanted = params.get('sample');
  const first = useMemo(
    () =>
      Math.max(
        0,
        list.findIndex((each) => starts(opened, each)),
      ),
    [list, opened],
  );
  const id = list[placeOf(list, wanted, first)]?.id;
  const sample = useSample(id).data;
  const read = useMemo(() => list.slice(0, mostRead).map((each) => each.id), [list]);
  const all = useSeveralSamples(read).data ?? noSamples;
  const choose = useCallback((chosen: string) => put({ sample: chosen, record: '' }), [put]);
  const step = useCallback(
    (by: 1 | -1) => {
      // The address is ahead of what is drawn: keys that follow each other quickly go on from it.
      const shown = new URLSearchParams(window.location.search).get('sample');
      const next = list[(placeOf(list, shown, first) + by + list.length) % list.length];
      if (next) choose(next.id);
    },
    [list, choose, first],
  );
  return { list, present: id === undefined ? undefined : sample, all, choose, step };
}

/** Returns whether a sample is of a change that a trigger is about. */
function starts({ kinds, watched }: Trigger, { kind, changed }: SampleSummary): boolean {
  if (!kinds.includes(kind)) return false;
  return kind !== 'updated' || watched.length === 0 || changed.some((path) => isWatched(path, watched));
}

/** Returns where a sample stands in the list; where none is named, the one that is shown at first. */
function placeOf(list: readonly SampleSummary[], id: string | null, first: number): number {
  const at = list.findIndex((sample) => sample.id === id);
  return at < 0 ? first : at;
}
