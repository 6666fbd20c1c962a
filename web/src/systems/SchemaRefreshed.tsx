import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import type {
  Affected,
  DraftView,
  SchemaChange,
  SchemaRefresh,
  SystemHealth,
  SystemView,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, useSystemsHealth } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count, shortTime } from '../parts/time';
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
  const known = useSystemsHealth().data?.find((each) => each.system === system.key)?.schema;
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
      {!look.data && known && <AtNight {...known} />}
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

/** What was found at night, until somebody looks. */
function AtNight({ lookedAt, changes, problem }: NonNullable<SystemHealth['schema']>) {
  const when = shortTime(lookedAt);
  if (problem !== null)
    return (
      <span className="small">
        {' '}
        <Verdict tone="wrong">{problem}</Verdict> ({when})
      </span>
    );
  return changes === 0 ? (
    <span className="small dim"> They were as they are known here on {when}.</span>
  ) : (
    <span className="small">
      {' '}
      <Verdict tone="will">
        {count(changes, 'difference')} on {when}
      </Verdict>
    </span>
  );
}

function Differences({
  refresh: { changes, broken, samples, tables },
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
      <Holding what="sample" all={samples} at={(of) => `/bench/${of}`} />
      <Holding what="table" all={tables} at={(of) => `/tables/${encodeURIComponent(of)}`} />
    </>
  );
}

/** How many are listed. */
const listed = 20;

/** Samples or tables that hold what there is no more. */
function Holding({
  what,
  all,
  at,
}: {
  readonly what: string;
  readonly all: readonly Affected[];
  readonly at: (of: string) => string;
}) {
  if (all.length === 0) return null;
  return (
    <>
      <p>{count(all.length, what)} would have to be looked at:</p>
      <ul>
        {all.slice(0, listed).map(({ of, name, because }) => (
          <li key={of}>
            <Link to={at(of)}>{name}</Link> <span className="small dim">{because}</span>
          </li>
        ))}
        {all.length > listed && <li className="dim">and {all.length - listed} more</li>}
      </ul>
    </>
  );
}
