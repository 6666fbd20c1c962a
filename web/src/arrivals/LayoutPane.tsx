import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import {
  fileFormat,
  knownPlaces,
  suggestLayout,
  type ArrivalView,
  type LayoutLine,
  type RecordType,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useKnown, useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Phrase } from '../parts/Phrase';
import { RecordTypeSelect, type TypePlace } from '../parts/RecordTypeSelect';
import { Loading } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import { surroundingsOf } from '../work/known';
import { HowRead } from './HowRead';
import { LearnType } from './LearnType';
import { LayoutLedger } from './LayoutLedger';
import { laidFields } from './layoutRows';
import { PasteLines } from './PasteLines';
import { ShownRecord } from './ShownRecord';
import { isBusy, useHead } from './useArrival';
import { useLayoutDraft } from './useLayoutDraft';

interface LayoutPaneProps {
  readonly view: ArrivalView;
  /** Called when the rows are being looked at. */
  readonly looked: () => void;
}

/** What fills which field, at the left; the file itself at the right, whose values can be pressed. */
export function LayoutPane({ view, looked }: LayoutPaneProps) {
  const layout = useLayoutDraft(view);
  const { draft, change, setFrom } = layout;
  const systems = useSystems().data;
  const { known } = useKnown();
  const maySend = useMay('files.send');
  const mayMakeTypes = useMay('systems.change');
  const head = useHead(view, draft);
  const { rows, sheets } = head;
  const [shown, setShown] = useState(() =>
    Math.max(
      0,
      rows.findIndex(({ ok }) => ok),
    ),
  );
  const [at, setAt] = useState<string>();
  const type = systems && typeOf(systems, draft.place);
  const tables = known && surroundingsOf(known).tables;
  const fields = useMemo(
    () =>
      type && draft.file && tables
        ? laidFields({
            type,
            file: draft.file,
            lines: draft.lines,
            tidy: draft.tidy,
            tables,
            row: rows[shown],
            time: view.cameAt,
          })
        : [],
    [type, draft, tables, rows, shown, view.cameAt],
  );
  if (!systems || !known) return <Loading />;
  const file = draft.file ?? fileFormat({ kind: 'csv' }).usual;
  const format = fileFormat(file);
  const inlets = systems.filter(({ reached }) => reached === 'inlet');
  const chooseType = (place: TypePlace) => {
    const chosen = typeOf(systems, place);
    const values = rows.flatMap((row) => (row.ok ? [row.value] : []));
    change({ place, lines: chosen ? suggestLayout(chosen, knownPlaces(format, values)) : [] });
  };
  const uses = new Map<string, string[]>();
  for (const { from, label } of fields) if (from !== '') uses.set(from, [...(uses.get(from) ?? []), label]);
  const label = fields.find(({ path }) => path === at)?.label;
  return (
    <div className="arrival-beside">
      <section className="arrival-layout" aria-label="Layout">
        <HowRead file={file} sheets={sheets} onChange={(next) => change({ file: next })} />
        {head.problem !== '' && head.problem !== view.problem && (
          <div className="note wrong" role="alert">
            {head.problem}
          </div>
        )}
        <p className="how-read">
          Each record of it becomes{' '}
          <Phrase
            right="files.send"
            label="What the records become"
            says={
              type && draft.place ? (
                <>
                  <SystemTag system={draft.place.system} /> {type.label}
                </>
              ) : (
                'choose what'
              )
            }
          >
            {(close) => (
              <>
                <RecordTypeSelect
                  systems={inlets}
                  value={draft.place}
                  named
                  onChange={(place) => {
                    chooseType(place);
                    close();
                  }}
                />
                {mayMakeTypes && draft.file && (
                  <LearnType
                    inlets={inlets}
                    file={draft.file}
                    values={rows.flatMap((row) => (row.ok ? [row.value] : []))}
                    made={(place, lines) => {
                      change({ place, lines });
                      close();
                    }}
                  />
                )}
              </>
            )}
          </Phrase>
          , from which the rules of that type go on.
        </p>
        {type && (
          <LayoutLedger fields={fields} at={at} choose={setAt} setFrom={setFrom} example={format.example} />
        )}
        {type && draft.place && (
          <PasteLines
            id={view.id}
            place={draft.place}
            file={file}
            lines={draft.lines}
            take={(lines: readonly LayoutLine[]) => change({ lines })}
          />
        )}
        <Conflict layout={layout} />
        {maySend && (
          <p className="arrival-deeds">
            <LookButton view={view} disabled={layout.saving || !type} looked={looked} />{' '}
            <Button variant="default" disabled={layout.saving || !type} onClick={layout.keepAsUsual}>
              Keep this for files like it
            </Button>
          </p>
        )}
      </section>
      <ShownRecord
        rows={rows}
        at={shown}
        format={format}
        go={setShown}
        uses={uses}
        filling={label}
        press={
          maySend && type
            ? (address) => {
                if (at !== undefined) setFrom(at, address);
              }
            : undefined
        }
      />
    </div>
  );
}

function typeOf(
  systems: readonly { readonly key: string; readonly recordTypes: readonly RecordType[] }[],
  place: TypePlace | undefined,
): RecordType | undefined {
  return systems
    .find(({ key }) => key === place?.system)
    ?.recordTypes.find(({ name }) => name === place?.recordType);
}

function Conflict({ layout }: { readonly layout: ReturnType<typeof useLayoutDraft> }) {
  const { failure, isConflict, takeTheirs } = layout;
  if (!failure) return null;
  return (
    <div className="note wrong" role="alert">
      {failure}{' '}
      {isConflict && (
        <Button size="compact-sm" variant="default" onClick={() => void takeTheirs()}>
          Show theirs
        </Button>
      )}
    </div>
  );
}

interface LookButtonProps extends LayoutPaneProps {
  readonly disabled: boolean;
}

function LookButton({ view, disabled, looked }: LookButtonProps) {
  const look = useMutation({
    mutationFn: () => ask(`/arrivals/${view.id}/looks`, { method: 'POST' }),
    onSuccess: looked,
  });
  return (
    <>
      <Button
        color="ember"
        disabled={disabled || isBusy(view)}
        loading={look.isPending}
        onClick={() => look.mutate()}
      >
        Look at what each row would do
      </Button>
      {look.isError && (
        <span className="note wrong" role="alert">
          {sentenceOf(look.error)}
        </span>
      )}
    </>
  );
}
