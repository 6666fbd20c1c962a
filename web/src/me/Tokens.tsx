import { Button, MultiSelect, Select, TextInput } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { rights, type Right, type SignedIn, type TokenMade, type TokenView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { Failure } from '../parts/states';
import { keys } from '../api/queries';
import { SecretOnce } from '../addresses/SecretOnce';
import { shortTime } from '../parts/time';
import { tellTrouble } from '../parts/toast';

const lasting = [
  { value: '7', label: 'a week' },
  { value: '30', label: 'a month' },
  { value: '90', label: 'three months' },
  { value: '366', label: 'a year' },
];

/** With what programs ask in a person's name: each with some of their rights, until an end. */
export function Tokens({ session }: { readonly session: SignedIn }) {
  const client = useQueryClient();
  const tokens = useQuery({ queryKey: keys.myTokens, queryFn: () => ask<TokenView[]>('/session/tokens') });
  const [now] = useState(() => Date.now());
  const end = useMutation({
    mutationFn: (id: string) => ask(`/session/tokens/${id}`, { method: 'DELETE' }),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.myTokens }),
    onError: (error) => tellTrouble(sentenceOf(error)),
  });
  return (
    <section aria-label="Tokens">
      <h2>Tokens for programs</h2>
      <p className="dim flush">
        A pipeline that carries rules from one environment to another signs in with one, and may do no more
        than you choose here.
      </p>
      <NewToken session={session} />
      {(tokens.data?.length ?? 0) > 0 && (
        <table className="people">
          <thead>
            <tr>
              <th scope="col">For</th>
              <th scope="col">May</th>
              <th scope="col">Ends</th>
              <th scope="col">Used last</th>
              <th scope="col">
                <span className="visually-hidden">What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {tokens.data?.map(({ id, name, rights: may, endsAt, usedAt, usedFrom }) => (
              <tr key={id}>
                <td>{name}</td>
                <td title={may.map((right) => rights[right]).join('; ')}>
                  {may.length === 1 ? '1 right' : `${may.length} rights`}
                </td>
                <td>{Date.parse(endsAt) < now ? <span className="dim">ended</span> : shortTime(endsAt)}</td>
                <td>
                  {usedAt === null ? (
                    <span className="dim">never</span>
                  ) : (
                    `${shortTime(usedAt)} from ${usedFrom ?? ''}`
                  )}
                </td>
                <td className="end">
                  <Button
                    variant="subtle"
                    aria-label={`End the token ${name}`}
                    onClick={() => end.mutate(id)}
                  >
                    End it
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function NewToken({ session }: { readonly session: SignedIn }) {
  const client = useQueryClient();
  const [name, setName] = useState('');
  const [chosen, setChosen] = useState<readonly Right[]>([]);
  const [days, setDays] = useState('90');
  const make = useMutation({
    mutationFn: () =>
      ask<TokenMade>('/session/tokens', {
        method: 'POST',
        body: { name: name.trim(), rights: chosen, days: Number(days) },
      }),
    onSuccess: async () => {
      setName('');
      await client.invalidateQueries({ queryKey: keys.myTokens });
    },
  });
  return (
    <>
      <form
        aria-label="A new token"
        className="field-tools"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <TextInput
          label="A token for"
          placeholder="the nightly pipeline"
          maxLength={80}
          value={name}
          onChange={({ currentTarget }) => setName(currentTarget.value)}
        />
        <MultiSelect
          label="which may"
          placeholder={chosen.length === 0 ? 'choose what' : ''}
          searchable
          data={session.rights.map((right) => ({ value: right, label: rights[right] }))}
          value={[...chosen]}
          onChange={(next) => setChosen(next as Right[])}
          w={420}
        />
        <Select
          label="for"
          data={lasting}
          value={days}
          onChange={(next) => setDays(next ?? days)}
          allowDeselect={false}
          w={130}
        />
        <Button type="submit" disabled={name.trim() === '' || chosen.length === 0} loading={make.isPending}>
          Make it
        </Button>
      </form>
      {make.isError && <Failure error={make.error} />}
      {make.data && <SecretOnce name={make.data.name} secret={make.data.token} />}
    </>
  );
}
