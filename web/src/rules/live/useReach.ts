import { useEffect, useMemo, useState } from 'react';
import {
  creates,
  MemoryWorkspace,
  reachTargets,
  targetName,
  type Catalog,
  type CompiledRule,
  type Reach,
  type Sample,
  type Workspace,
} from '@vast-knot/core';

export interface LiveReach {
  readonly reach: Reach | undefined;
  /** The records of the sample. */
  readonly workspace: Workspace | undefined;
}

/** The records that the rule's finds reach for the present sample; lines do not matter for it. */
export function useReach(
  compiled: CompiledRule | undefined,
  sample: Sample | undefined,
  catalog: Catalog,
): LiveReach {
  const workspace = useMemo(() => sample && new MemoryWorkspace(catalog, sample.records), [sample, catalog]);
  const [reach, setReach] = useState<Reach>();
  const rule = compiled?.rule;
  // Finds that do not compile are not in the compiled rule, so that their number counts too.
  const reaching =
    rule &&
    JSON.stringify([
      rule.trigger,
      rule.finds,
      compiled.finds.length,
      // What later actions see of a created record comes from its lines.
      rule.actions.map((action) => (creates(action) ? action : targetName(action))),
    ]);
  useEffect(() => {
    let left = false;
    const compute = async () => {
      const made =
        compiled && sample && workspace && (await reachTargets(compiled, sample.event, workspace, catalog));
      if (!left) setReach(made);
    };
    void compute();
    return () => {
      left = true;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what `compiled` means here is in `reaching`
  }, [reaching, sample, workspace, catalog]);
  return useMemo(() => ({ reach, workspace }), [reach, workspace]);
}
