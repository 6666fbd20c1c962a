import { Button, Popover } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { WentOn } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { count } from '../parts/time';
import { digits } from '../parts/habits';

interface GoOnProps {
  /** Where it is asked for. */
  readonly path: string;
  /** What goes on, as it stands in a sentence. */
  readonly what: string;
  /** How many changes wait. */
  readonly waiting: number;
  /** Beside buttons of the usual size. */
  readonly usual?: boolean;
}

/** Lets what is paused go on. Where something waits, it is asked whether that is done, in its order, or dropped. */
export function GoOn({ path, what, waiting, usual = false }: GoOnProps) {
  const [open, setOpen] = useState(false);
  const client = useQueryClient();
  const goOn = useMutation({
    mutationFn: (drop: boolean) => ask<WentOn>(path, { method: 'POST', body: { drop } }),
    onSuccess: () => setOpen(false),
    onSettled: () => client.invalidateQueries(),
  });
  const press = () => (waiting === 0 ? goOn.mutate(false) : setOpen(!open));
  return (
    <>
      <Popover opened={open} onChange={setOpen} width={340} trapFocus>
        <Popover.Target>
          <Button
            variant="default"
            {...(!usual && { size: 'compact-sm' })}
            loading={goOn.isPending}
            onClick={press}
          >
            Go on
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          <p className="flush">
            {count(waiting, 'change waits', 'changes wait')} for {what}.
          </p>
          <Button mt={8} loading={goOn.isPending} onClick={() => goOn.mutate(false)}>
            Go on with {waiting === 1 ? 'it' : 'them, in their order'}
          </Button>
          <p className="small dim">
            Or drop {waiting === 1 ? 'it' : 'them'}: nothing is written for {waiting === 1 ? 'it' : 'them'}.
            What was dropped stands in the runs, and can be taken up there.
          </p>
          <Button variant="default" color="rust" loading={goOn.isPending} onClick={() => goOn.mutate(true)}>
            Drop {waiting === 1 ? 'it' : `all ${digits(waiting)}`} and go on
          </Button>
        </Popover.Dropdown>
      </Popover>
      {goOn.isError && <span className="value wrong">{sentenceOf(goOn.error)}</span>}
    </>
  );
}
