import type { Limits, SheetConnection } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import { Count } from '../Inputs';
import type { SheetParts } from '../sheetParts';

interface LimitsProps<C extends SheetConnection> extends SheetParts<C> {
  /** What is limited: requests, or statements. */
  readonly of: string;
  /** At once, where the connection does not say it. */
  readonly usual: number;
}

/** How much may be asked of the system, and how long is waited for an answer. */
export function LimitsPhrase<C extends SheetConnection>({ draft, of, usual }: LimitsProps<C>) {
  const { limits = {} } = draft.body.connection;
  const { requestsAtOnce = usual, requestsPerSecond, patienceSeconds = 20 } = limits;
  const set = (change: Limits) =>
    draft.edit((body) => ({
      ...body,
      connection: { ...body.connection, limits: { ...body.connection.limits, ...change } },
    }));
  return (
    <span className="small">
      At most{' '}
      <Phrase
        right="systems.change"
        label="How much may be asked"
        says={`${requestsAtOnce} ${of} at once${requestsPerSecond === undefined ? '' : `, ${requestsPerSecond} a second`}`}
      >
        <Count
          label={`${of.charAt(0).toUpperCase()}${of.slice(1)} at once`}
          value={requestsAtOnce}
          max={64}
          onChange={(next) => set({ requestsAtOnce: next })}
        />
        <Count
          label={`${of.charAt(0).toUpperCase()}${of.slice(1)} a second`}
          value={requestsPerSecond}
          max={10_000}
          onChange={(next) => set({ requestsPerSecond: next })}
        />
        <Count
          label="Seconds to wait for an answer"
          value={patienceSeconds}
          max={300}
          onChange={(next) => set({ patienceSeconds: next })}
        />
      </Phrase>
      .
    </span>
  );
}
