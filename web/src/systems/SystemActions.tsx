import { Button, PasswordInput, Popover } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { DraftView, RuleView, SystemView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, usePauses, useRules, useSystemsHealth } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { GoOn } from '../pauses/GoOn';

/** What can be done with a connected system: change how it is reached, its secret, pause it, take it out. */
export function SystemActions({ system }: { readonly system: SystemView }) {
  const mayChange = useMay('systems.change');
  const client = useQueryClient();
  const navigate = useNavigate();
  const health = useSystemsHealth().data?.find((each) => each.system === system.key);
  const everything = usePauses().data?.everything ?? null;
  const paused = health?.paused ?? false;
  const change = useMutation({
    mutationFn: () =>
      ask<DraftView>('/connections/drafts', { method: 'POST', body: { from: 'system', system: system.key } }),
    onSuccess: async (view) => {
      client.setQueryData(keys.draft(view.id), view);
      await navigate(`/systems/connect/${view.id}`);
    },
  });
  const pause = useMutation({
    mutationFn: () => ask(`/systems/${system.key}/pause`, { method: 'POST' }),
    onSettled: () => client.invalidateQueries({ queryKey: keys.systemsHealth }),
  });
  if (!mayChange || system.reached !== 'connection') return null;
  const failed = change.error ?? pause.error;
  return (
    <>
      <Button variant="default" loading={change.isPending} onClick={() => change.mutate()}>
        Change how it is reached
      </Button>
      <Secret system={system} />
      {!paused && (
        <Button variant="default" loading={pause.isPending} onClick={() => pause.mutate()}>
          Pause
        </Button>
      )}
      {paused && everything === null && (
        <GoOn path={`/systems/${system.key}/go-on`} what={system.name} waiting={health?.waiting ?? 0} usual />
      )}
      <Button
        variant="default"
        component="a"
        href={`/api/systems/${system.key}/bundle`}
        download={`${system.key}.json`}
      >
        Put into a bundle
      </Button>
      <TakeOut system={system} />
      {failed && <span className="value wrong">{sentenceOf(failed)}</span>}
    </>
  );
}

function Secret({ system }: { readonly system: SystemView }) {
  const [open, setOpen] = useState(false);
  const [value, setValue] = useState('');
  const keep = useMutation({
    mutationFn: () => ask(`/systems/${system.key}/secrets/token`, { method: 'PUT', body: { value } }),
    onSuccess: () => {
      setValue('');
      setOpen(false);
    },
  });
  return (
    <Popover opened={open} onChange={setOpen} width={320}>
      <Popover.Target>
        <Button variant="default" onClick={() => setOpen(!open)}>
          Another secret
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <PasswordInput
          label="The secret with which one signs in"
          description="What is on its way goes on with the one before; the next request has this one."
          value={value}
          autoComplete="off"
          onChange={(event) => setValue(event.currentTarget.value)}
          mb={8}
        />
        <Button disabled={value === ''} loading={keep.isPending} onClick={() => keep.mutate()}>
          Keep it
        </Button>
        {keep.isError && <div className="value wrong">{sentenceOf(keep.error)}</div>}
      </Popover.Dropdown>
    </Popover>
  );
}

/** Taking a system out can be taken back: it becomes a draft that can be started again. */
function TakeOut({ system }: { readonly system: SystemView }) {
  const [open, setOpen] = useState(false);
  const client = useQueryClient();
  const navigate = useNavigate();
  const rules = useRules().data ?? [];
  const takeOut = useMutation({
    mutationFn: () => ask<{ draft: string }>(`/systems/${system.key}`, { method: 'DELETE' }),
    onSuccess: async ({ draft }) => {
      await client.invalidateQueries({ queryKey: keys.systems });
      void client.invalidateQueries({ queryKey: keys.rules });
      await navigate(`/systems/connect/${draft}`);
    },
  });
  const stopped = rules.filter((rule) => rule.published && uses(rule, system.key));
  return (
    <Popover opened={open} onChange={setOpen} width={340}>
      <Popover.Target>
        <Button variant="subtle" color="rust" onClick={() => setOpen(!open)}>
          Take out
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <p>
          {stopped.length === 0
            ? 'No rule that runs uses it.'
            : `${count(stopped.length, 'rule')} would stop: ${stopped.map(({ draft }) => draft.name).join(', ')}.`}
        </p>
        <p className="small dim">
          It becomes a draft, with its secrets, and can be started again. What changes meanwhile is found
          then.
        </p>
        <Button color="rust" loading={takeOut.isPending} onClick={() => takeOut.mutate()}>
          Take {system.name} out
        </Button>
        {takeOut.isError && <div className="value wrong">{sentenceOf(takeOut.error)}</div>}
      </Popover.Dropdown>
    </Popover>
  );
}

/** Returns whether a rule starts from a system, or looks or writes there. */
function uses({ published, draft }: RuleView, system: string): boolean {
  return JSON.stringify(published?.body ?? draft).includes(`"system":${JSON.stringify(system)}`);
}
