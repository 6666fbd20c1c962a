import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { RuleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, usePauses } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { GoOn } from './GoOn';

/** Whether a rule is paused, what waits for it, and letting it go on; or pausing it, where it runs. */
export function RulePause({ rule }: { readonly rule: RuleView }) {
  const mayPause = useMay('runs.pause');
  const held = usePauses().data?.rules.find(({ id }) => id === rule.id)?.held ?? 0;
  const client = useQueryClient();
  const pause = useMutation({
    mutationFn: () => ask<RuleView>(`/rules/${rule.id}/pause`, { method: 'POST' }),
    onSuccess: (view) => {
      client.setQueryData(keys.rule(rule.id), view);
      void client.invalidateQueries({ queryKey: keys.pauses });
    },
  });
  if (rule.paused)
    return (
      <span role="status">
        <Verdict tone="will">paused</Verdict>{' '}
        <span className="small">
          by {rule.paused.by} since {shortTime(rule.paused.at)}; {count(held, 'change waits', 'changes wait')}{' '}
          for it.
        </span>{' '}
        {mayPause && <GoOn path={`/rules/${rule.id}/go-on`} what="this rule" waiting={held} />}
      </span>
    );
  if (!mayPause || !rule.published) return null;
  return (
    <>
      <Button variant="default" size="compact-sm" loading={pause.isPending} onClick={() => pause.mutate()}>
        Pause
      </Button>
      {pause.isError && <span className="value wrong">{sentenceOf(pause.error)}</span>}
    </>
  );
}
