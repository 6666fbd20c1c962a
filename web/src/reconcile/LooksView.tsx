import { Link } from 'react-router';
import type { ReconcileView } from '@vast-knot/core';
import { useRules } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Empty, Failure, Loading } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import { count, shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { Verdict } from '../parts/Verdict';
import { RunsTabs } from '../runs/RunsTabs';
import { Drift } from './Drift';
import { BeginLook } from './BeginLook';
import { standingWords } from './standingWords';
import { useReconciles } from './useReconcile';
import { digits } from '../parts/habits';

/** The looks there were at what exists, the newest first, and the beginning of another one. */
export function LooksView() {
  const [params, put] = useAddress();
  const rule = params.get('rule') ?? '';
  const looks = useReconciles(rule);
  const mayLook = useMay('reconciles.look');
  const rules = useRules().data ?? [];
  const chosen = rules.find(({ id }) => id === rule);
  return (
    <article className="page wide" aria-label="Reconciles">
      <RunsTabs />
      <h1>Records that exist</h1>
      <p className="dim">
        A rule acts on what changes from now on. Here it is held beside the records that are there already:
        what it would write for each, as if it had just changed. Nothing is written before you choose what.
      </p>
      {mayLook && <BeginLook rules={rules} chosen={chosen} choose={(id) => put({ rule: id })} />}
      {chosen && <Drift key={chosen.id} rule={chosen} />}
      {looks.isPending && <Loading />}
      {looks.isError && <Failure error={looks.error} again={() => void looks.refetch()} />}
      {looks.data?.length === 0 && (
        <Empty title="No look yet">Choose a rule and press “Look at what exists”.</Empty>
      )}
      {looks.data && looks.data.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th>Rule</th>
              <th className="of24">Looked at</th>
              <th className="of14">Would change</th>
              <th className="of14">Written</th>
              <th className="of24">How it stands</th>
            </tr>
          </thead>
          <tbody>
            {looks.data.map((look) => (
              <LookRow key={look.id} look={look} />
            ))}
          </tbody>
        </table>
      )}
    </article>
  );
}

function LookRow({ look }: { readonly look: ReconcileView }) {
  const { id, ruleName, version, system, counts, lookedAt, askedBy, written, skipped, failed } = look;
  return (
    <tr>
      <td>
        <SystemTag system={system} /> <Link to={`/reconcile/${id}`}>{ruleName}</Link>{' '}
        <span className="small dim">{version === 0 ? 'as edited' : `version ${version}`}</span>
      </td>
      <td className="small">
        <span className="mono">{shortTime(lookedAt)}</span> by {askedBy}
      </td>
      <td className="mono">{digits(counts.changes)}</td>
      <td className="small">
        {digits(written)}
        {skipped > 0 && `, ${digits(skipped)} left out`}
        {failed > 0 && `, ${digits(failed)} failed`}
      </td>
      <td>
        <Standing look={look} />
      </td>
    </tr>
  );
}

/** In a word how a look stands: at work, or what is left to do. */
function Standing({ look: { look, writing, counts, written } }: { readonly look: ReconcileView }) {
  const job = writing ?? look;
  if (job && job.state !== 'done')
    return (
      <Verdict tone={job.state === 'failed' ? 'wrong' : 'waiting'}>
        {writing ? 'writing' : 'looking'}: {job.state}
      </Verdict>
    );
  const left = counts.changes - written;
  if (counts.cannot > 0) {
    const [tone, word] = standingWords.cannot;
    return (
      <Verdict tone={tone}>
        {digits(counts.cannot)} {word}
      </Verdict>
    );
  }
  return left > 0 ? (
    <Verdict tone="will">{count(left, 'record')} could be written</Verdict>
  ) : (
    <Verdict tone="settled">all in line</Verdict>
  );
}
