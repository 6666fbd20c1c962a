import { zoneShown } from './habits';

/** Returns the zone that is offered at first: that of the reader, where it is that of a place. */
export function zoneHere(): string {
  const zone = zoneShown();
  return zone === 'UTC' ? 'Europe/London' : zone;
}
