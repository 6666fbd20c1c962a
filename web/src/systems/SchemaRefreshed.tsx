import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import type { DraftView, SchemaChange, SchemaRefresh, SystemView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { Verdict, type VerdictTone } from '../parts/Verdict';

const tones: Readonly<Record<SchemaChange['what'], VerdictTone>> = {
  came: 'settled',
  went: 'wrong',
  changed: 'will',
};

/** What a system says of its record types by now: what came, went and changed, and which rules that would break. */
export function SchemaRefreshed({ system }: { readonly system: SystemView }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const mayChange = useMay('systems.change');
  const look = useMutation({ mutationFn: () => ask<SchemaRefresh>(`/systems/${system.key}/refresh`) });
  const take = useMutation({
    mutationFn: () =>
      ask<DraftView>('/connections/drafts', {
        method: 'POST',
        body: { from: 'system', system: system.key, refresh: true },
      }),
    onSuccess: async (view) => {
      client.setQueryData(keys.draft(view.id), view);
      await navigate(`/systems/connect/${view.id}`);
    },
  });
  return (
    <section aria-label="What it says of its fields by now" className="refresh">
      <Button variant="default" loading={look.isPending} onClick={() => look.mutate()}>
        See whether its fields changed
      </Button>
      {look.isError && <span className="value wrong"> {sentenceOf(look.error)}</span>}
      {look.data && (
        <div role="status">
          {look.data.changes.length === 0 ? (
            <Verdict tone="settled">It says of its fields what is known here.</Verdict>
          ) : (
            <Differences refresh={look.data} system={system} />
          )}
          {look.data.changes.length > 0 && mayChange && (
            <Button color="ember" loading={take.isPending} onClick={() => take.mutate()}>
              Take them into a draft
            </Button>
          )}
          {take.isError && <span className="value wrong"> {sentenceOf(take.error)}</span>}
        </div>
      )}
    </section>
  );
}

function Differences({
  refresh: { changes, broken },
  system,
}: {
  readonly refresh: SchemaRefresh;
  readonly system: SystemView;
}) {
  const label = (name: string) => system.recordTypes.find((type) => type.name === name)?.label ?? name;
  return (
    <>
      <table className="grid boxed">
        <thead>
          <tr>
            <th className="of12">What</th>
            <th className="of14">Record type</th>
            <th className="of22">Field</th>
            <th>How</th>
          </tr>
        </thead>
        <tbody>
          {changes.map(({ what, type, field, how }) => (
            <tr key={`${what}/${type}/${field ?? ''}`}>
              <td>
                <Verdict tone={tones[what]}>{what}</Verdict>
              </td>
              <td>{label(type)}</td>
              <td className="mono">{field ?? 'as a whole'}</td>
              <td>{how}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {broken.length === 0 ? (
        <p>No rule that runs would have a mistake with it.</p>
      ) : (
        <>
          <p>
            {count(broken.length, 'rule')} at work would have mistakes with it. Nothing changes until it is
            taken:
          </p>
          <ul>
            {broken.map(({ rule, name, findings }) => (
              <li key={rule}>
                <Link to={`/rules/${rule}`}>{name}</Link>
                {findings.map(({ at, message }) => (
                  <div key={`${at}${message}`} className="small">
                    <Verdict tone="wrong">{message}</Verdict>
                  </div>
                ))}
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
