import type { System } from '../model/system';
import type { Bundle } from './bundle';

/** What differs from one environment to the next. */
const ofEnvironment = new Set(['baseUrl', 'limits']);

/** Returns the bundle with one system that is carried to another environment: how it is reached, but for its address. Secrets are in none. */
export function bundleOfSystem(system: System, connection: Readonly<Record<string, unknown>>): Bundle {
  const carried = Object.entries(connection).filter(([name]) => !ofEnvironment.has(name));
  return { vastKnot: 1, systems: [{ system, connection: Object.fromEntries(carried) }] };
}
