import { Button } from '@mantine/core';
import { useRemovedRules } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { Empty, Failure, Loading } from '../../parts/states';
import { count, shortTime } from '../../parts/time';
import { useRuleWork } from './useRuleWork';

/** Leads to the rules that were removed, where there are any. */
export function RemovedLink({ open }: { readonly open: () => void }) {
  const removed = useRemovedRules().data ?? [];
  if (removed.length === 0) return null;
  return (
    <button type="button" className="plain small" onClick={open}>
      {count(removed.length, 'removed rule')}
    </button>
  );
}

/** Rules that were taken away: each can be brought back as it was. */
export function RemovedRules({ back }: { readonly back: () => void }) {
  const removed = useRemovedRules();
  const { restore } = useRuleWork();
  const mayEdit = useMay('rules.edit');
  const mayPublish = useMay('rules.publish');
  if (removed.isPending) return <Loading />;
  if (removed.isError) return <Failure error={removed.error} again={() => void removed.refetch()} />;
  return (
    <div className="page">
      <div className="page-head">
        <h1>Removed rules</h1>
        <span className="end">
          <Button variant="default" onClick={back}>
            All rules
          </Button>
        </span>
      </div>
      {removed.data.length === 0 ? (
        <Empty title="No rule is removed">What is removed from the list can be brought back here.</Empty>
      ) : (
        <table className="grid">
          <thead>
            <tr>
              <th>Rule</th>
              <th>Removed by</th>
              <th>When</th>
              <th>When it comes back</th>
              <th>
                <span className="visually-hidden">What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {removed.data.map(({ id, name, by, at, version }) => (
              <tr key={id}>
                <td>{name}</td>
                <td>{by}</td>
                <td>{shortTime(at)}</td>
                <td>{version === null ? 'it does not run' : `version ${version} runs again`}</td>
                <td>
                  {mayEdit && (version === null || mayPublish) && (
                    <Button size="compact-sm" variant="default" onClick={() => restore.mutate([id])}>
                      Bring back
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
