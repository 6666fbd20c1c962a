import {
  emptyConnection,
  type ConnectionDraft,
  type DraftReason,
  databaseAddress,
  emptyDatabase,
  type DatabaseConnection,
  type DatabaseDraft,
  type DatabaseProposal,
  type HttpConnection,
  type HttpDraft,
  type OwnStyle,
  type Proposal,
  labelOf,
  type SheetConnection,
  type System,
} from '@vast-knot/core';

/** Hues far from one another, in the order in which new systems get them. */
const hues = [12, 88, 190, 262, 318, 40, 140, 222, 290, 340];

/** Returns key, tag and hue for a new system, that no other has. */
export function identityFor(name: string, others: readonly System[]): Omit<System, 'recordTypes'> {
  const plain = name.normalize('NFKD').replace(/[^A-Za-z0-9 -]/g, '');
  const words = plain.split(/[\s-]+/).filter((word) => word !== '');
  const letters = words
    .join('')
    .toUpperCase()
    .replace(/[^A-Z]/g, '');
  const tags = [
    words
      .map(([first = '']) => first)
      .join('')
      .toUpperCase()
      .slice(0, 2),
    ...[...letters.slice(1)].map((letter) => `${letters.charAt(0)}${letter}`),
    ...[...'ABCDEFGHIJKLMNOPQRSTUVWXYZ'].map((letter) => `${letters.charAt(0) || 'S'}${letter}`),
  ];
  const base =
    words
      .join('-')
      .toLowerCase()
      .replace(/^[^a-z]+/, '')
      .slice(0, 30)
      .replace(/-$/, '') || 'system';
  const keys = [base, ...Array.from({ length: others.length + 1 }, (_none, at) => `${base}-${at + 2}`)];
  const free = <T>(values: readonly T[], of: (system: System) => T) =>
    values.find((value) => !others.some((each) => of(each) === value));
  return {
    key: free(keys, ({ key }) => key) ?? base,
    tag:
      free(
        tags.filter((tag) => /^[A-Z]{2}$/.test(tag)),
        ({ tag }) => tag,
      ) ?? 'ZZ',
    name: name.slice(0, 80),
    hue: free(hues, ({ hue }) => hue) ?? (others.length * 47) % 360,
  };
}

/** A draft of which nothing is known but a name. */
export function emptyDraft(name: string, others: readonly System[]): HttpDraft {
  return {
    system: identityFor(name, others),
    recordTypes: [],
    connection: emptyConnection,
    proposed: {},
    reasons: [],
    leftOut: [],
    origin: 'Begun by hand.',
  };
}

/** Types that are taken without being asked for; of more, a person chooses. */
const takenAtOnce = 12;

/** Returns the draft that a proposal makes: what most of its types share is said once. */
export function draftOf(
  { name, baseUrl, signIn, types, reasons, leftOut }: Proposal,
  {
    origin,
    others,
    fallbackName,
    address,
  }: {
    readonly origin: string;
    readonly others: readonly System[];
    readonly fallbackName: string;
    readonly address?: string;
  },
): HttpDraft {
  const usual = usualOf(types.map(({ style }) => style));
  const proposed = Object.fromEntries(
    types.map(({ type, style }) => [type.name, ownOf(style, usual, type.name)]),
  );
  const connection: HttpConnection = {
    ...emptyConnection,
    baseUrl: baseUrl ?? '',
    signIn: signIn ?? { kind: 'bearer' },
    ...(address !== undefined && { document: address }),
    usual,
    recordTypes: Object.fromEntries(Object.entries(proposed).slice(0, takenAtOnce)),
  };
  const of =
    (type: string) =>
    (reason: Proposal['reasons'][number]): DraftReason => ({ type, ...reason });
  return {
    system: identityFor(name ?? fallbackName, others),
    recordTypes: types.map(({ type }) => type),
    connection,
    proposed,
    reasons: [
      ...reasons.map(of('')),
      ...types.flatMap(({ type, reasons: own }) => own.map(of(type.name))),
    ].slice(0, 100_000),
    leftOut: leftOut.slice(0, 10_000),
    origin,
  };
}

/** How a database is reached. */
export type DatabaseGiven = Pick<DatabaseConnection, 'baseUrl' | 'user' | 'protection'>;

/** Returns the draft that the catalogue of a database makes. */
export function draftOfDatabase(
  { types, leftOut }: DatabaseProposal,
  given: DatabaseGiven,
  others: readonly System[],
): DatabaseDraft {
  const proposed = Object.fromEntries(types.map(({ type, style }) => [type.name, style]));
  const { database = 'Database' } = databaseAddress(given.baseUrl) ?? {};
  return {
    system: identityFor(labelOf(database), others),
    recordTypes: types.map(({ type }) => type),
    connection: {
      ...emptyDatabase,
      ...given,
      recordTypes: Object.fromEntries(Object.entries(proposed).slice(0, takenAtOnce)),
    },
    proposed,
    reasons: types
      .flatMap(({ type, reasons }) => reasons.map((reason): DraftReason => ({ type: type.name, ...reason })))
      .slice(0, 100_000),
    leftOut: leftOut.map((sentence) => sentence.slice(0, 1000)).slice(0, 10_000),
    origin: `Learnt from the catalogue of ${given.baseUrl}.`,
  };
}

type Style = Proposal['types'][number]['style'];

const parts = ['list', 'one', 'version', 'changing', 'creating', 'removing', 'listening'] as const;

/** Returns what most types have of each part. */
function usualOf(styles: readonly Style[]): HttpConnection['usual'] {
  const usual: Record<string, unknown> = { ...emptyConnection.usual };
  for (const part of parts) {
    const counts = new Map<string, number>();
    for (const style of styles) {
      const text = JSON.stringify(style?.[part]) ?? '';
      counts.set(text, (counts.get(text) ?? 0) + 1);
    }
    const [most] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? [''];
    if (most !== '') usual[part] = JSON.parse(most) as unknown;
  }
  return usual as unknown as HttpConnection['usual'];
}

/** Returns what a type has of its own beside what is usual. */
function ownOf(style: Style, usual: HttpConnection['usual'], name: string): OwnStyle {
  if (!style) return { path: `/${encodeURIComponent(name)}` };
  const own = parts.flatMap((part): [string, unknown][] => {
    const [here, there] = [style[part], usual[part]];
    if (JSON.stringify(here) === JSON.stringify(there)) return [];
    if (here !== undefined) return [[part, here]];
    // What the others can, this one cannot.
    return part === 'list' || part === 'one' || part === 'version' ? [] : [[part, null]];
  });
  return { path: style.path, ...Object.fromEntries(own) };
}

/** Returns the draft of a system as it is, or was. */
export function draftOfSystem(
  {
    definition: { recordTypes, ...system },
    connection,
  }: { readonly definition: System; readonly connection: SheetConnection },
  origin: string,
): ConnectionDraft {
  return {
    system,
    recordTypes,
    connection,
    proposed: connection.recordTypes,
    reasons: [],
    leftOut: [],
    origin,
  };
}
