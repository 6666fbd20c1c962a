import type { System } from '../model/system';
import type { BundledSystem } from './bundle';

/** What differs from one environment to the next. */
const ofEnvironment = new Set(['baseUrl', 'limits']);

/** Returns a system as it is carried to another environment: with how it is reached, but for its address. Secrets are in none. */
export function bundledSystem(
  { key, tag, name, hue, recordTypes }: System,
  connection: Readonly<Record<string, unknown>>,
): BundledSystem {
  const carried = Object.entries(connection).filter(([member]) => !ofEnvironment.has(member));
  return { system: { key, tag, name, hue, recordTypes }, connection: Object.fromEntries(carried) };
}
