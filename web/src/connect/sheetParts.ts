import type {
  ConnectionDraft,
  DraftFinding,
  DraftReason,
  DraftView,
  HttpConnection,
  RecordType,
  SheetConnection,
  TypeStyle,
} from '@vast-knot/core';
import type { SavedDraft } from '../parts/useSavedDraft';

/** What the statements of a connection sheet work with. */
export interface SheetParts<C extends SheetConnection = HttpConnection> {
  readonly view: DraftView;
  readonly draft: SavedDraft<ConnectionDraft<C>>;
  /** Returns what is wrong at a place, or below it. */
  readonly found: (at: string) => readonly DraftFinding[];
  /** Returns why a part was proposed as it is. */
  readonly because: (type: string, about: string) => readonly DraftReason[];
  /** Tries the list of the type at hand again. */
  readonly again: () => void;
}

/** The same, of one record type of a system that is reached over HTTP. */
export interface TypeParts extends SheetParts {
  readonly type: RecordType;
  readonly style: TypeStyle;
}
