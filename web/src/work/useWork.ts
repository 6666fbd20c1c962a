import { startTransition, useEffect, useRef, useState } from 'react';
import { worker } from './worker';
import type { Known } from './known';
import type { WorkInput, WorkName, WorkOutput } from './works';

interface Result<N extends WorkName> {
  /** The last result; while a new one is computed it stays. Undefined before the first, and without an input. */
  readonly output: WorkOutput<N> | undefined;
  /** Whether the output belongs to the input at hand. */
  readonly current: boolean;
  readonly error: string | undefined;
}

interface State<N extends WorkName> {
  readonly output?: WorkOutput<N>;
  readonly error?: string;
  readonly of?: WorkInput<N>;
}

/** What the worker gives for an input, anew whenever the input is another one; of inputs that pile up only the last is computed. */
export function useWork<N extends WorkName>(
  work: N,
  input: WorkInput<N> | undefined,
  known: Known | undefined,
): Result<N> {
  const [state, setState] = useState<State<N>>({});
  const next = useRef<{ input: WorkInput<N>; known: Known } | undefined>(undefined);
  const busy = useRef(false);
  useEffect(() => {
    next.current = input && known && { input, known };
    if (busy.current) return;
    const takeNext = async () => {
      busy.current = true;
      while (next.current) {
        const { input: asked, known: against } = next.current;
        next.current = undefined;
        try {
          const output = await worker.ask(work, asked, against);
          startTransition(() => setState({ output, of: asked }));
        } catch (thrown) {
          setState({ error: thrown instanceof Error ? thrown.message : String(thrown), of: asked });
        }
      }
      busy.current = false;
    };
    void takeNext();
  }, [work, input, known]);
  return {
    output: input === undefined ? undefined : state.output,
    current: state.of === input,
    error: input === undefined ? undefined : state.error,
  };
}
