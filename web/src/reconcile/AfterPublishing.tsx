import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { ReconcileView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { isUnfinished, JobBar } from '../parts/JobBar';
import { standingOrder, standingWords } from './standingWords';
import { useReconcile } from './useReconcile';
import { digits } from '../parts/habits';

interface AfterPublishingProps {
  readonly rule: string;
  readonly version: number;
  readonly system: string;
  readonly recordType: string;
}

/** Asks, once a rule is published, whether the records that exist are to be brought into line too, and says how many there are. */
export function AfterPublishing({ rule, version, system, recordType }: AfterPublishingProps) {
  const mayLook = useMay('reconciles.look');
  const type = useSystems()
    .data?.find(({ key }) => key === system)
    ?.recordTypes.find(({ name }) => name === recordType);
  const look = useMutation({
    mutationFn: () => ask<{ id: string }>('/reconciles', { method: 'POST', body: { rule } }),
  });
  const plural = type?.plural.toLowerCase() ?? recordType;
  if (!mayLook) return null;
  return (
    <div className="note" role="status" aria-label="Records that exist">
      Version {version} runs, and acts on what changes from now on.{' '}
      {look.data ? (
        <Counted id={look.data.id} plural={plural} />
      ) : (
        <>
          Bring the {plural} that exist into line too?{' '}
          <Button size="xs" variant="default" loading={look.isPending} onClick={() => look.mutate()}>
            Count them first
          </Button>
        </>
      )}
      {look.isError && <span className="value wrong"> {sentenceOf(look.error)}</span>}
    </div>
  );
}

function Counted({ id, plural }: { readonly id: string; readonly plural: string }) {
  const { data: view, refetch } = useReconcile(id);
  if (!view) return null;
  return (
    <>
      {view.look && <JobBar job={view.look} what="Records looked at" changed={() => void refetch()} />}
      <CountText view={view} plural={plural} />{' '}
      <Link to={`/reconcile/${id}?standing=changes`}>See them, and choose what is written</Link>
    </>
  );
}

function CountText({
  view: { counts, look },
  plural,
}: {
  readonly view: ReconcileView;
  readonly plural: string;
}) {
  const all = Object.values(counts).reduce((sum, number) => sum + number, 0);
  const told = standingOrder
    .filter((standing) => counts[standing] > 0)
    .map((standing) => `${digits(counts[standing])} ${standingWords[standing][1]}`);
  return (
    <span>
      {isUnfinished(look ?? undefined) ? 'So far, of' : 'Of'} {digits(all)} {plural}: {told.join(', ')}.
    </span>
  );
}
