import { useEffect, useMemo, useState } from 'react';
import {
  MemoryWorkspace,
  previewLines,
  reachTargets,
  type Catalog,
  type CompiledRule,
  type Env,
  type LineReport,
  type Reach,
  type Sample,
} from '@vast-knot/core';

/** The values of one action for the present record. */
export interface LiveAction {
  /** The records that the action reaches for the sample. */
  readonly ids: readonly string[];
  /** Which of them the values are of. */
  readonly at: number;
  readonly env: Env;
  readonly target: Env['record'];
  readonly reports: ReadonlyMap<string, LineReport>;
}

export interface Live {
  /** What the finds gave. */
  readonly reach: Reach | undefined;
  readonly actions: ReadonlyMap<number, LiveAction>;
}

const nothing: Live = { reach: undefined, actions: new Map() };

/**
 * The values of all lines for the present sample, computed on the page's thread: the records are reached once, and a
 * keystroke computes the lines of the one record that is shown.
 */
export function useLive(
  compiled: CompiledRule | undefined,
  sample: Sample | undefined,
  catalog: Catalog,
  present: number,
): Live {
  const workspace = useMemo(() => sample && new MemoryWorkspace(catalog, sample.records), [sample, catalog]);
  const reach = useReach(compiled, sample, workspace);
  const [live, setLive] = useState<Live>(nothing);
  useEffect(() => {
    let left = false;
    const compute = async () => {
      if (!compiled || !workspace || !reach) return setLive(nothing);
      const actions = new Map<number, LiveAction>();
      for (const action of compiled.actions) {
        const reached = reach.targets.get(action.at) ?? [];
        const at = Math.min(present, reached.length - 1);
        const here = reached[at];
        if (!here) continue;
        const [preview] = await previewLines(action, [here], workspace);
        if (!preview) continue;
        actions.set(action.at, {
          ids: reached.map(({ target }) => target.ref.id),
          at,
          env: preview.env,
          target: here.target.record,
          reports: new Map(preview.reports.map((report) => [report.field, report])),
        });
      }
      if (!left) setLive({ reach, actions });
    };
    void compute();
    return () => {
      left = true;
    };
  }, [compiled, workspace, reach, present]);
  return live;
}

/** The records that the rule's finds reach; lines do not matter for it. */
function useReach(
  compiled: CompiledRule | undefined,
  sample: Sample | undefined,
  workspace: MemoryWorkspace | undefined,
): Reach | undefined {
  const [kept, setKept] = useState<Reach>();
  const rule = compiled?.rule;
  // Finds that do not compile are not in the compiled rule, so that their number counts too.
  const reaching =
    rule &&
    JSON.stringify([
      rule.trigger,
      rule.finds,
      compiled.finds.length,
      rule.actions.map(({ target }) => target),
    ]);
  useEffect(() => {
    let left = false;
    const compute = async () => {
      const made = compiled && sample && workspace && (await reachTargets(compiled, sample.event, workspace));
      if (!left) setKept(made);
    };
    void compute();
    return () => {
      left = true;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what `compiled` means here is in `reaching`
  }, [reaching, sample, workspace]);
  return kept;
}
