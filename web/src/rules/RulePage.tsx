import { useMemo, useState } from 'react';
import { useLocation, useParams } from 'react-router';
import type { RuleView, SystemView } from '@vast-knot/core';
import { useKnown, useRule, useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Empty, Failure, Loading } from '../parts/states';
import { RuleSheet } from './RuleSheet';
import { justMade } from './useDraft';

/** The address of a rule that is kept nowhere yet. */
const newRule = 'new';

/** The rule sheet's page: fetches what the sheet is made of. */
export function RulePage() {
  const { id = '' } = useParams();
  const isNew = id === newRule;
  const mayEdit = useMay('rules.edit');
  const rule = useRule(isNew ? undefined : id);
  const systems = useSystems();
  const { known, error } = useKnown();
  const sheet = useSheetKey(id);
  const fresh = useMemo(() => (isNew ? begun(systems.data ?? []) : undefined), [isNew, systems.data]);
  if (isNew && !mayEdit)
    return <Empty title="You may not make rules">Whoever edits rules can make one for you.</Empty>;
  if (rule.isError) return <Failure error={rule.error} again={() => void rule.refetch()} />;
  if (error !== undefined) return <Failure error={error} />;
  if (!systems.data || !known) return <Loading />;
  const view = isNew ? fresh : rule.data;
  return view ? <RuleSheet key={sheet} rule={view} systems={systems.data} known={known} /> : <Loading />;
}

/**
 * Returns what tells the sheet of one rule from that of another. A new rule that is kept by now has another address, and its sheet stays,
 * with what is typed on it.
 */
function useSheetKey(id: string): string {
  const { state } = useLocation() as { readonly state: unknown };
  const [{ key, last }, setKept] = useState({ key: id, last: id });
  if (id === last) return key;
  const next = { key: last === newRule && state === justMade ? key : id, last: id };
  setKept(next);
  return next.key;
}

/** Returns a rule that says nothing yet. It is kept once somebody edits it. */
function begun([first]: readonly SystemView[]): RuleView | undefined {
  if (!first) return undefined;
  return {
    id: newRule,
    draft: {
      name: 'New rule',
      note: '',
      trigger: {
        system: first.key,
        recordType: first.recordTypes[0]?.name ?? '',
        kinds: ['updated'],
        watched: [],
      },
      guard: '',
      finds: [],
      actions: [{ kind: 'write', target: 'record', lines: [] }],
    },
    revision: 0,
    published: null,
    folder: '',
    changedAt: new Date().toISOString(),
    changedBy: null,
    paused: null,
    asked: null,
  };
}
