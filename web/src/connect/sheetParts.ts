import type {
  ConnectionDraft,
  DraftFinding,
  DraftReason,
  DraftView,
  RecordType,
  TypeStyle,
} from '@vast-knot/core';
import type { SavedDraft } from '../parts/useSavedDraft';

/** What the statements of a connection sheet work with. */
export interface SheetParts {
  readonly view: DraftView;
  readonly draft: SavedDraft<ConnectionDraft>;
  /** Returns what is wrong at a place, or below it. */
  readonly found: (at: string) => readonly DraftFinding[];
  /** Returns why a part was proposed as it is. */
  readonly because: (type: string, about: string) => readonly DraftReason[];
  /** Tries the list of the type at hand again. */
  readonly again: () => void;
}

/** The same, of one record type. */
export interface TypeParts extends SheetParts {
  readonly type: RecordType;
  readonly style: TypeStyle;
}
