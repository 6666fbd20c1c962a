import { Button, Select } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { changeKinds, type HeardEvent } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useHeard, useSystems } from '../api/queries';
import { RecordTypeSelect } from './RecordTypeSelect';

const anyKind = 'changed in any way';

interface FromNextEventProps {
  readonly name: string;
  readonly masks: boolean;
}

/** Listens for the next event of a kind and takes it as a sample, with the records it met. */
export function FromNextEvent({ name, masks }: FromNextEventProps) {
  const navigate = useNavigate();
  const systems = (useSystems().data ?? []).filter(({ reached }) => reached !== 'own');
  const [place, setPlace] = useState('');
  const [kind, setKind] = useState('updated');
  const [wanted, setWanted] = useState<URLSearchParams>();
  const [system = '', recordType = ''] = place.split('/');
  const type = systems
    .find(({ key }) => key === system)
    ?.recordTypes.find((each) => each.name === recordType);
  const listen = useMutation({
    mutationFn: async () => {
      const query = new URLSearchParams({ system, recordType, ...(kind !== anyKind && { kind }) });
      const { after } = await ask<HeardEvent>(`/samples/heard?${query.toString()}`);
      query.set('after', after);
      return query;
    },
    onSuccess: setWanted,
  });
  const heard = useHeard(wanted);
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
    onError: () => setWanted(undefined),
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
          value={place}
          onChange={setPlace}
          disabled={wanted !== undefined}
        />
        <Select
          label="What happens to it"
          data={[...changeKinds, anyKind]}
          value={kind}
          allowDeselect={false}
          disabled={wanted !== undefined}
          onChange={(value) => setKind(value ?? 'updated')}
        />
        {wanted ? (
          <Button variant="default" onClick={() => setWanted(undefined)}>
            Stop listening
          </Button>
        ) : (
          <Button type="submit" disabled={place === ''} loading={listen.isPending || take.isPending}>
            Listen
          </Button>
        )}
      </form>
      {wanted && (
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
