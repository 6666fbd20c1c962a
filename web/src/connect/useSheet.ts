import { useMemo } from 'react';
import {
  draftFindings,
  type ConnectionDraft,
  type DraftFinding,
  type DraftView,
  type RecordType,
  type SheetConnection,
  type SystemView,
} from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { useAddress } from '../parts/useAddress';
import type { SavedDraft } from '../parts/useSavedDraft';
import { useTries, type Tries } from './exchange/useTries';
import type { SheetParts } from './sheetParts';

/** What a connection sheet is made of. */
export interface SheetProps<C extends SheetConnection> {
  readonly view: DraftView;
  readonly draft: SavedDraft<ConnectionDraft<C>>;
  readonly systems: readonly SystemView[];
}

interface Sheet<C extends SheetConnection> {
  readonly parts: SheetParts<C>;
  /** The record type at hand; undefined where there is none yet. */
  readonly type: RecordType | undefined;
  readonly isTaken: boolean;
  readonly choose: (type: string) => void;
  readonly tries: Tries;
  readonly mayTry: boolean;
  readonly findings: readonly DraftFinding[];
}

/** What all connection sheets share: the record type at hand, what is wrong, and what is tried. */
export function useSheet<C extends SheetConnection>({ view, draft, systems }: SheetProps<C>): Sheet<C> {
  const mayTry = useMay('systems.change');
  const [params, put] = useAddress();
  const { recordTypes, connection, reasons } = draft.body;
  const isReached = (name: string) => Object.hasOwn(connection.recordTypes, name);
  const asked = params.get('type');
  const type =
    recordTypes.find(({ name }) => name === asked) ??
    recordTypes.find(({ name }) => isReached(name)) ??
    recordTypes[0];
  const name = type?.name ?? '';
  const tries = useTries(view.id, draft.body, name, mayTry);
  const findings = useMemo(
    () =>
      draftFindings(
        draft.body,
        systems.filter(({ key }) => key !== view.system),
      ),
    [draft.body, systems, view.system],
  );
  return {
    parts: {
      view,
      draft,
      found: (at) => findings.filter((each) => each.at.startsWith(at)),
      because: (of, about) => reasons.filter((reason) => reason.type === of && reason.about === about),
      again: () => type && tries.attempt({ what: 'list', type: name }),
    },
    type,
    isTaken: isReached(name),
    choose: (next) => put({ type: next }),
    tries,
    mayTry,
    findings,
  };
}
