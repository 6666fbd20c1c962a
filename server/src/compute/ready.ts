import type { CompiledRule, Surroundings } from '@vast-knot/core';

/** What a task is computed in: what is defined, and the published rules ready to run. */
export interface Ready extends Omit<Surroundings, 'rules'> {
  readonly rules: readonly CompiledRule[];
}
