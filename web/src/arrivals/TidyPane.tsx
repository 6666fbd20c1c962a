import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { compileTidy, type ArrivalView, type TaggedStep, type TidiedField } from '@vast-knot/core';
import { ask, askForFile, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { giveFile } from '../parts/giveFile';
import { newTaggedSteps } from '../parts/newTaggedSteps';
import { TaggedStepRow } from '../parts/TaggedStepRow';
import { count } from '../parts/time';
import { Change } from '../parts/Value';
import { Verdict } from '../parts/Verdict';
import { RecordSteps } from './RecordSteps';
import { useLayoutDraft } from './useLayoutDraft';

/** What is done to each record of a tagged file, at the left; at the right each field of one record before and after. */
export function TidyPane({ view }: { readonly view: ArrivalView }) {
  const layout = useLayoutDraft(view);
  const { draft, change } = layout;
  const maySend = useMay('files.send');
  const steps = draft.tidy;
  const rows = view.head.rows.flatMap((row) => (row.ok ? [row] : []));
  const [shown, setShown] = useState(0);
  const row = rows[Math.min(shown, rows.length - 1)];
  const compiled = useMemo(() => compileTidy(steps), [steps]);
  const tidied = row && compiled.tidy(row.value, { time: view.cameAt });
  const put = (tidy: readonly TaggedStep[]) => change({ tidy });
  const changed = tidied?.fields.filter(({ before, after }) => before !== after).length ?? 0;
  return (
    <div className="arrival-beside">
      <section className="arrival-layout" aria-label="What is tidied">
        <p className="dim">
          Each step is done to every record, in this order, before its values fill fields. The file that came
          stays as it is.
        </p>
        <ol className="tidy-steps">
          {steps.map((step, at) => (
            <li key={at}>
              <TaggedStepRow
                step={step}
                right="files.send"
                problem={
                  compiled.problems.find((problem) => problem.at === at)?.because ??
                  tidied?.problems.find((problem) => problem.at === at)?.because
                }
                change={(next) => put(steps.map((each, place) => (place === at ? next : each)))}
                remove={() => put(steps.filter((_each, place) => place !== at))}
              />
            </li>
          ))}
        </ol>
        {maySend && (
          <p className="side-by-side">
            {newTaggedSteps.map(({ label, step }) => (
              <Button key={label} variant="default" onClick={() => put([...steps, step])}>
                {label}
              </Button>
            ))}
          </p>
        )}
        {layout.failure && (
          <div className="note wrong" role="alert">
            {layout.failure}{' '}
            {layout.isConflict && (
              <Button size="compact-sm" variant="default" onClick={() => void layout.takeTheirs()}>
                Show theirs
              </Button>
            )}
          </div>
        )}
        {maySend && steps.length > 0 && (
          <>
            <TakeTidied view={view} disabled={layout.saving || compiled.problems.length > 0} />
            <p className="dim">
              A record that cannot be read is not in the tidied file. The file that came keeps all of them.
            </p>
          </>
        )}
      </section>
      <section className="shown-record" aria-label="Before and after">
        {row && tidied ? (
          <>
            <RecordSteps place={row.place} count={rows.length} at={shown} go={setShown}>
              <Verdict tone={changed > 0 ? 'will' : 'quiet'}>
                {changed === 0 ? 'nothing changes' : count(changed, 'field changes', 'fields change')}
              </Verdict>
            </RecordSteps>
            <div className="shown-parts">
              <BeforeAfter fields={tidied.fields} />
            </div>
          </>
        ) : (
          <p className="dim">None of the first records could be read.</p>
        )}
      </section>
    </div>
  );
}

/** Each field of a record as it was and as it is, side by side. */
function BeforeAfter({ fields }: { readonly fields: readonly TidiedField[] }) {
  return (
    <table className="grid before-after">
      <thead>
        <tr>
          <th>Field</th>
          <th>Before</th>
          <th>After</th>
        </tr>
      </thead>
      <tbody>
        {fields.map(({ tag, before, after }, at) => (
          <tr key={at} className={before === after ? '' : 'changed'}>
            <td className="mono">{tag}</td>
            <td className="mono as-text">
              {before === undefined ? <span className="dim">not there</span> : before}
            </td>
            <td className="mono as-text">
              {after === undefined ? (
                <span className="value will">removed</span>
              ) : before === after ? (
                <span className="dim">the same</span>
              ) : before === undefined ? (
                <span className="value will">{after}</span>
              ) : (
                <Change before={before} after={after} />
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Gives the tidied file, or takes it as an arrival of its own. */
function TakeTidied({ view, disabled }: { readonly view: ArrivalView; readonly disabled: boolean }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const path = `/arrivals/${view.id}/tidied`;
  const asFile = useMutation({
    mutationFn: () => askForFile(path, {}),
    onSuccess: (file) => giveFile(`tidied-${view.name}`, 'application/octet-stream', file),
  });
  const asArrival = useMutation({
    mutationFn: () => ask<ArrivalView>(`${path}?to=arrival`, { method: 'POST' }),
    onSuccess: ({ id }) => {
      void client.invalidateQueries({ queryKey: keys.arrivals });
      void navigate(`/arrivals/${id}`);
    },
  });
  const failure = asFile.error ?? asArrival.error;
  return (
    <p className="side-by-side">
      <Button
        variant="default"
        disabled={disabled}
        loading={asFile.isPending}
        onClick={() => asFile.mutate()}
      >
        The tidied file
      </Button>
      <Button
        variant="default"
        disabled={disabled}
        loading={asArrival.isPending}
        onClick={() => asArrival.mutate()}
      >
        Take it as an arrival
      </Button>
      {failure && (
        <span className="value wrong" role="alert">
          {sentenceOf(failure)}
        </span>
      )}
    </p>
  );
}
