import type { SavedDraft, Theirs } from '../parts/useSavedDraft';

/** Returns a draft as one of a narrower kind; undefined where it is none. It stays one: undo leads to no other kind. */
export function narrowed<T, N extends T>(
  draft: SavedDraft<T>,
  is: (body: T) => body is N,
): SavedDraft<N> | undefined {
  const { body, theirs } = draft;
  if (!is(body)) return undefined;
  return {
    ...draft,
    body,
    theirs: theirs && narrowedTheirs(theirs, is),
    edit: (change, part) => draft.edit((known) => (is(known) ? change(known) : known), part),
  };
}

function narrowedTheirs<T, N extends T>(
  theirs: Theirs<T>,
  is: (body: T) => body is N,
): Theirs<N> | undefined {
  const { body } = theirs;
  return is(body) ? { ...theirs, body } : undefined;
}
