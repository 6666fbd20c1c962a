import type { SystemStanding } from '@vast-knot/core';
import { Gate, usualLimits, type GateLimits, type GateState } from './gate';

/** The gates of this process, one for each system; they last while connections are changed. */
export class Gates {
  private readonly gates = new Map<string, Gate>();

  /** `changed` hears of every change of how a system stands. */
  constructor(private readonly changed: (system: string, state: GateState) => void = () => undefined) {}

  /** Returns the gate of a system, with these limits from now on. */
  of(system: string, limits: Partial<GateLimits> = {}, name = system): Gate {
    const all = { ...usualLimits, ...limits };
    const known = this.gates.get(system);
    if (known) {
      known.limit(all);
      return known;
    }
    const gate = new Gate({ system, name, limits: all, changed: (state) => this.changed(system, state) });
    this.gates.set(system, gate);
    return gate;
  }

  /** Lets the next request to a system that is away try it at once. */
  tryNow(system: string): void {
    this.gates.get(system)?.tryNow();
  }

  get all(): readonly Gate[] {
    return [...this.gates.values()];
  }

  /** Takes over what another process found out of a system. */
  hear(system: string, standing: SystemStanding, until: number | undefined, because: string): void {
    this.gates.get(system)?.hear(standing, until, because);
  }

  /** Ends every request that is on its way. */
  end(): void {
    for (const gate of this.gates.values()) gate.end();
  }
}
