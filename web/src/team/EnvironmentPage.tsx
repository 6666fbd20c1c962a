import { Button, Checkbox, Radio, TextInput } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import {
  environmentColours,
  type EnvironmentColour,
  type EnvironmentView,
  type SignedIn,
} from '@vast-knot/core';
import { ask } from '../api/client';
import { Failure } from '../parts/states';
import { keys, sessionQuery } from '../api/queries';
import { EnvironmentMark } from '../frame/EnvironmentMark';
import { tell } from '../parts/toast';

/** How this environment is called, in which colour, and whether publishing wants a second person. */
export function EnvironmentPage() {
  const session = useQuery(sessionQuery).data;
  return session ? <EnvironmentForm key={session.environment.revision} view={session.environment} /> : null;
}

function EnvironmentForm({ view }: { readonly view: EnvironmentView }) {
  const client = useQueryClient();
  const [name, setName] = useState(view.name);
  const [colour, setColour] = useState<EnvironmentColour>(view.colour);
  const [secondPerson, setSecondPerson] = useState(view.secondPerson);
  const save = useMutation({
    mutationFn: () =>
      ask<EnvironmentView>('/environment', {
        method: 'PUT',
        ifMatch: view.revision,
        body: { name: name.trim(), colour, secondPerson },
      }),
    onSuccess: (environment) => {
      client.setQueryData<SignedIn>(keys.session, (session) => session && { ...session, environment });
      tell('It is kept, and shown to everybody with their next page.');
    },
  });
  return (
    <article className="page own-page" aria-label="This environment">
      <div className="page-head">
        <h1>This environment</h1>
        <span className="dim">so that nobody takes the trial for the real one</span>
      </div>
      <form
        className="habits"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <TextInput
          label="Called"
          description="Stands in the bar of every page. Empty: nothing stands there."
          placeholder="Trial"
          maxLength={40}
          value={name}
          onChange={({ currentTarget }) => setName(currentTarget.value)}
          w={300}
        />
        <Radio.Group
          label="In the colour"
          value={colour}
          onChange={(next) => setColour(next as EnvironmentColour)}
        >
          {environmentColours.map((each) => (
            <Radio
              key={each}
              value={each}
              mt={6}
              label={
                <>
                  {each} <EnvironmentMark name={name.trim() || 'Trial'} colour={each} />
                </>
              }
            />
          ))}
        </Radio.Group>
        <Checkbox
          label="What one person wants published is published by another"
          description="Whoever may publish asks for it; it runs once somebody else who may publish agrees."
          checked={secondPerson}
          onChange={({ currentTarget }) => setSecondPerson(currentTarget.checked)}
        />
        {save.isError && <Failure error={save.error} />}
        <Button type="submit" loading={save.isPending} w="fit-content">
          Keep it
        </Button>
      </form>
    </article>
  );
}
