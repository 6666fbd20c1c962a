import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { ask, sentenceOf } from '../api/client';
import { digits } from './habits';
import { count } from './time';
import './judged.css';

/** What is done to what was chosen, in words. */
interface DeedWords {
  /** `Write`, `Apply`. */
  readonly deed: string;
  /** What there are several of: `record`, `row`. */
  readonly of: string;
  /** What will happen to so many, as a sentence. */
  readonly will: (many: string) => string;
}

/** Which ones are asked for: the marked, or all that the list holds. */
export type Which = 'marked' | 'listed';

interface ChosenDeedProps {
  readonly words: DeedWords;
  /** The address that does it, and what it is asked with. */
  readonly path: string;
  readonly body: (which: Which) => unknown;
  /** Whether it is offered now. */
  readonly offered: boolean;
  readonly marked: number;
  /** Of how many of the listed ones it can be done; undefined until they are counted. */
  readonly listed: number | undefined;
  /** Whether the list holds all there are. */
  readonly all: boolean;
  readonly begun: () => void;
  readonly clear: () => void;
}

/** Has something done to what was chosen: to the marked, or to all that are listed. It is asked once more before. */
export function ChosenDeed(props: ChosenDeedProps) {
  const { words, path, body, offered, marked, listed, all, begun, clear } = props;
  const { deed, of, will } = words;
  const [asking, setAsking] = useState<Which>();
  const doing = useMutation({
    mutationFn: (which: Which) => ask<{ count: number }>(path, { method: 'POST', body: body(which) }),
    onSettled: () => {
      setAsking(undefined);
      begun();
    },
    onSuccess: clear,
  });
  return (
    <div className="write-bar" role="group" aria-label={deed}>
      {offered && asking === undefined && (
        <>
          {marked > 0 && (
            <Button color="ember" onClick={() => setAsking('marked')}>
              {deed} the {count(marked, `marked ${of}`)}
            </Button>
          )}
          {listed !== undefined && (
            <Button
              {...(marked > 0 ? { variant: 'default' } : { color: 'ember' })}
              disabled={listed === 0}
              onClick={() => setAsking('listed')}
            >
              {all ? `${deed} all ${digits(listed)}` : `${deed} the ${digits(listed)} that are listed`}
            </Button>
          )}
        </>
      )}
      {asking !== undefined && (
        <span className="note" role="alertdialog" aria-label={`${deed} now?`}>
          {will(count(asking === 'marked' ? marked : (listed ?? 0), of))}{' '}
          <Button size="xs" color="ember" loading={doing.isPending} onClick={() => doing.mutate(asking)}>
            {deed} now
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => setAsking(undefined)}>
            Not yet
          </Button>
        </span>
      )}
      {doing.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(doing.error)}
        </div>
      )}
    </div>
  );
}
