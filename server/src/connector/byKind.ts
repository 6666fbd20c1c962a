import type { ApplyResult, GuardedChange, RecordChange } from '@vast-knot/core';

/** A change of one kind, with the version and the key that it was planned with. */
export interface Guarded<Kind extends RecordChange['kind']> extends GuardedChange {
  readonly change: Extract<RecordChange, { kind: Kind }>;
}

/** What writes changes of each kind. */
type Writers = {
  readonly [Kind in RecordChange['kind']]: (
    changes: readonly Guarded<Kind>[],
  ) => Promise<readonly ApplyResult[]>;
};

/** Hands changes to the writers of their kinds, which work side by side. Returns the results in the order of the changes. */
export async function writeByKind(
  changes: readonly GuardedChange[],
  writers: Writers,
): Promise<readonly ApplyResult[]> {
  const results = new Map<GuardedChange, ApplyResult>();
  const write = async <Kind extends RecordChange['kind']>(kind: Kind) => {
    const own = changes.filter((guarded): guarded is Guarded<Kind> => guarded.change.kind === kind);
    if (own.length === 0) return;
    const done = await writers[kind](own);
    own.forEach((guarded, at) => {
      const result = done[at];
      if (result) results.set(guarded, result);
    });
  };
  await Promise.all([write('create'), write('edit'), write('remove')]);
  return changes.map((guarded) => results.get(guarded) ?? unanswered);
}

/** What a change comes to of which nothing came back. */
export const unanswered: ApplyResult = {
  ok: false,
  problem: { code: 'unavailable', message: 'No result came back.', retry: true },
};
