import { eventKinds, type Meaning, type Telling } from '@vast-knot/core';

/** Kinds of messages as they are typed: `company.updated = company updated`, one on each line. */
export function typesText(types: Telling['types']): string {
  return Object.entries(types)
    .map(([name, { recordType, kind }]) => `${name} = ${recordType} ${kind}`)
    .join('\n');
}

/** Reads kinds of messages as they are typed; a line that says nothing of a record type and a kind is left out. */
export function readTypes(text: string): Telling['types'] {
  return Object.fromEntries(
    text.split('\n').flatMap((line): [string, Meaning][] => {
      const at = line.lastIndexOf('=');
      if (at === -1) return [];
      const name = line.slice(0, at).trim();
      const meant = line.slice(at + 1).trim();
      const kind = eventKinds.find((each) => meant.endsWith(` ${each}`));
      const recordType = kind && meant.slice(0, -kind.length).trim();
      return name !== '' && kind !== undefined && recordType ? [[name, { recordType, kind }]] : [];
    }),
  );
}
