import { Button } from '@mantine/core';
import { useMemo } from 'react';
import {
  draftFindings,
  leafFields,
  type ConnectionDraft,
  type DraftView,
  type SystemView,
} from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { useAddress } from '../parts/useAddress';
import type { SavedDraft } from '../parts/useSavedDraft';
import { ConnectHead } from './ConnectHead';
import { Changes } from './clauses/Changes';
import { Listing } from './clauses/Listing';
import { System } from './clauses/System';
import { Told } from './clauses/Told';
import { Writing } from './clauses/writing/Writing';
import { ExchangePane } from './exchange/ExchangePane';
import { useTries } from './exchange/useTries';
import { LearnFields } from './LearnFields';
import type { SheetParts } from './sheetParts';
import { styleIn } from './styleEdits';
import { Types } from './Types';

interface SheetProps {
  readonly view: DraftView;
  readonly draft: SavedDraft<ConnectionDraft>;
  readonly systems: readonly SystemView[];
}

/** The connection sheet: prose to edit on the left, the real exchange at the right. */
export function ConnectSheet({ view, draft, systems }: SheetProps) {
  const mayTry = useMay('systems.change');
  const [params, put] = useAddress();
  const { recordTypes, connection, reasons } = draft.body;
  const asked = params.get('type');
  const type =
    recordTypes.find(({ name }) => name === asked) ??
    recordTypes.find(({ name }) => Object.hasOwn(connection.recordTypes, name)) ??
    recordTypes[0];
  const name = type?.name ?? '';
  const style = useMemo(() => styleIn(draft.body, name), [draft.body, name]);
  const tries = useTries(view.id, draft.body, name, mayTry);
  const findings = useMemo(
    () =>
      draftFindings(
        draft.body,
        systems.filter(({ key }) => key !== view.system),
      ),
    [draft.body, systems, view.system],
  );
  const parts: SheetParts = {
    view,
    draft,
    found: (at) => findings.filter((each) => each.at.startsWith(at)),
    because: (of, about) => reasons.filter((reason) => reason.type === of && reason.about === about),
    again: () => type && tries.attempt({ what: 'list', type: name }),
  };
  return (
    <div className="split connect-beside">
      <div className="sheet">
        <ConnectHead view={view} draft={draft} findings={findings} />
        <System {...parts} />
        <Told {...parts} />
        <Types {...parts} at={name} choose={(next) => put({ type: next })} />
        {type && Object.hasOwn(connection.recordTypes, name) && (
          <section aria-label={`How ${type.plural} are reached`} className="type-sheet">
            <h2>
              {type.plural} <span className="mono dim">{type.name}</span>
            </h2>
            <Listing {...parts} type={type} style={style} />
            <Writing {...parts} type={type} style={style} />
            <Changes {...parts} type={type} style={style} />
            {leafFields(type.fields).length < 2 && (
              <LearnFields draft={draft} type={type} tried={tries.tried} />
            )}
          </section>
        )}
        {type && !Object.hasOwn(connection.recordTypes, name) && (
          <p className="dim">
            {type.plural} are not taken.{' '}
            <Button variant="subtle" onClick={() => put({ type: '' })}>
              Show one that is
            </Button>
          </p>
        )}
      </div>
      <ExchangePane draft={draft} type={type} style={style} tries={tries} mayTry={mayTry} />
    </div>
  );
}
