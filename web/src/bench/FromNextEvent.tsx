import { Button, Select } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { changeKinds, type HeardEvent } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useHeard, useSystems } from '../api/queries';
import { RecordTypeSelect } from '../parts/RecordTypeSelect';
import { useAddress } from '../parts/useAddress';

const anyKind = 'changed in any way';

interface FromNextEventProps {
  readonly name: string;
  readonly masks: boolean;
}

/**
 * Listens for the next event of a kind and takes it as a sample, with the records it met. What is listened for stands in the
 * address, with the place in the inbox from which on: it survives a reload, and nothing that came meanwhile is missed.
 */
export function FromNextEvent({ name, masks }: FromNextEventProps) {
  const navigate = useNavigate();
  const [params, put] = useAddress();
  const systems = (useSystems().data ?? []).filter(({ reached }) => reached !== 'own');
  const [system, recordType] = [params.get('system') ?? '', params.get('type') ?? ''];
  const [kind, after] = [params.get('kind') ?? 'updated', params.get('after') ?? ''];
  const listens = after !== '';
  const type = systems
    .find(({ key }) => key === system)
    ?.recordTypes.find((each) => each.name === recordType);
  const wanted = new URLSearchParams({ system, recordType, ...(kind !== anyKind && { kind }) });
  const listen = useMutation({
    mutationFn: () => ask<HeardEvent>(`/samples/heard?${wanted.toString()}`),
    onSuccess: ({ after: from }) => put({ after: from }),
  });
  const heard = useHeard(listens ? new URLSearchParams([...wanted, ['after', after]]) : undefined);
  const { mutate, ...take } = useMutation({
    mutationFn: (run: string) =>
      ask<{ id: string }>('/samples', {
        method: 'POST',
        body: {
          run,
          name: name === '' ? `${type?.label ?? recordType}, as heard` : name,
          ...(masks && { masked: true }),
        },
      }),
    onSuccess: ({ id }) => void navigate(`/bench/${id}`),
  });
  const run = heard.data?.run ?? null;
  useEffect(() => {
    if (run !== null) mutate(run);
  }, [run, mutate]);
  const failure = listen.error ?? heard.error ?? take.error;
  return (
    <>
      <form
        className="from-record"
        onSubmit={(event) => {
          event.preventDefault();
          listen.mutate();
        }}
      >
        <RecordTypeSelect
          systems={systems}
          value={type && { system, recordType }}
          onChange={(place) => put({ system: place.system, type: place.recordType })}
          disabled={listens}
          named
        />
        <Select
          label="What happens to it"
          data={[...changeKinds, anyKind]}
          value={kind}
          allowDeselect={false}
          disabled={listens}
          onChange={(value) => put({ kind: value ?? '' })}
        />
        {listens ? (
          <Button variant="default" onClick={() => put({ after: '' })}>
            Stop listening
          </Button>
        ) : (
          <Button type="submit" disabled={!type} loading={listen.isPending}>
            Listen
          </Button>
        )}
      </form>
      {listens && !failure && (
        <p className="note" role="status">
          Listening: the next {type?.label.toLowerCase()} that is {kind} becomes a sample, with the records
          that its run meets. Change one in its system now, or wait until somebody does.
        </p>
      )}
      {failure && (
        <div className="note wrong" role="alert">
          {sentenceOf(failure)}
        </div>
      )}
    </>
  );
}
