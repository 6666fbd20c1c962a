/** What was opened from the palette last, as it is shown again; kept in this browser. */
export interface Recent {
  /** The system that it belongs to, where that is shown. */
  readonly system?: string;
  readonly title: string;
  readonly more: string;
  readonly path: string;
}

const key = 'vast-knot recent';
const most = 8;

export function readRecent(): readonly Recent[] {
  try {
    const kept: unknown = JSON.parse(window.localStorage.getItem(key) ?? '[]');
    return Array.isArray(kept) ? kept.filter(isRecent).slice(0, most) : [];
  } catch {
    // What cannot be read is forgotten.
    return [];
  }
}

export function noteRecent({ system, title, more, path }: Recent): void {
  const others = readRecent().filter((each) => each.path !== path);
  try {
    window.localStorage.setItem(
      key,
      JSON.stringify([{ system, title, more, path }, ...others].slice(0, most)),
    );
  } catch {
    // A browser that keeps nothing shows nothing recent.
  }
}

function isRecent(value: unknown): value is Recent {
  if (typeof value !== 'object' || value === null) return false;
  const { title, more, path, system = '' } = value as Partial<Record<keyof Recent, unknown>>;
  return (
    typeof title === 'string' &&
    typeof more === 'string' &&
    typeof path === 'string' &&
    typeof system === 'string' &&
    path.startsWith('/')
  );
}
