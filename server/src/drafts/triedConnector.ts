import type { Dispatcher } from 'undici';
import type { System } from '@vast-knot/core';
import { openConnector, type Connection } from '../connector/connection';
import type { Connector } from '../connector/connector';
import type { WatchedExchange } from '../connector/exchanged';
import { Gates } from '../connector/gates';

/** A try does not wait long, and makes few requests. */
const patienceSeconds = 10;

/** What a connection is tried with. */
export interface TriedWith {
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
  /** The secret for signing in. */
  readonly token: string;
  readonly watch?: (watched: WatchedExchange) => void;
}

/** Opens a connection that is only tried. It has a gate of its own: what goes wrong says nothing of a system that is at work. */
export function triedConnector(
  connection: Exclude<Connection, { kind: 'inlet' }>,
  system: System,
  { dispatcher, allowedOutbound, token, watch }: TriedWith,
): Connector {
  const limits = { ...connection.limits, patienceSeconds, requestsAtOnce: 2 };
  return openConnector(
    { ...connection, limits },
    {
      system,
      token,
      dispatcher,
      allowedOutbound,
      gateWith: (gate) => new Gates().of(system.key, gate, system.name || 'The system'),
      watch,
    },
  );
}
