const here = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** The zone that is offered at first: that of the reader, where it is that of a place. */
export const zoneHere = here === 'UTC' ? 'Europe/London' : here;
