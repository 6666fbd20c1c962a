import { useEffect, useMemo, useState } from 'react';
import { flushSync } from 'react-dom';
import { previewLines, type CompiledWrite, type Env, type LineReport } from '@vast-knot/core';
import type { LiveReach } from './useReach';

/** The values of one action for the present record. */
export interface LiveAction {
  readonly env: Env;
  readonly target: Env['record'];
  readonly reports: ReadonlyMap<string, LineReport>;
}

export interface Live {
  /** The records that the action reaches for the sample; undefined when there are none. */
  readonly ids: readonly string[] | undefined;
  /** Which of them the values are of. */
  readonly at: number;
  readonly values: LiveAction | undefined;
}

/**
 * The values of all lines of an action for one of the records that it reaches, computed on the page's thread: a keystroke
 * computes the lines of the record that is shown, and nothing else.
 */
export function useLive(
  action: CompiledWrite | undefined,
  { reach, workspace }: LiveReach,
  wanted: number,
): Live {
  const reached = action && reach?.targets.get(action.at);
  const ids = useMemo(
    () => (reached && reached.length > 0 ? reached.map(({ target }) => target.ref.id) : undefined),
    [reached],
  );
  const at = Math.min(wanted, (reached?.length ?? 0) - 1);
  const here = reached?.[at];
  const [values, setValues] = useState<LiveAction>();
  useEffect(() => {
    let left = false;
    const compute = async () => {
      if (!action || !here || !workspace) return setValues(undefined);
      const [preview] = await previewLines(action, [here], workspace);
      if (left || !preview) return;
      const reports = new Map(preview.reports.map((report) => [report.field, report]));
      // The values belong to the keystroke that has just been drawn: they go into the same frame.
      flushSync(() => setValues({ env: preview.env, target: here.target.record, reports }));
    };
    void compute();
    return () => {
      left = true;
    };
  }, [action, here, workspace]);
  return { ids, at, values: here && values };
}
