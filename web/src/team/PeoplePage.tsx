import { Button, Select, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import type { InvitationMade, InvitationView, PeopleView, RoleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, usePeople } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Copy } from '../parts/Copy';
import { Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { tell, tellTrouble } from '../parts/toast';
import { PersonRow } from './PersonRow';

/** Who may sign in here, who was invited, and what each may. */
export function PeoplePage() {
  const people = usePeople();
  const mayChange = useMay('people.change');
  const [made, setMade] = useState<InvitationMade>();
  if (people.isPending) return <Loading />;
  if (people.isError) return <Failure error={people.error} again={() => void people.refetch()} />;
  const { roles, invitations } = people.data;
  return (
    <article className="page" aria-label="People">
      <div className="page-head">
        <h1>People</h1>
        <span className="dim">who may sign in here, and as what</span>
      </div>
      {mayChange && <Invite roles={roles} onMade={setMade} />}
      {made && <Link made={made} />}
      <table className="people">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Role</th>
            <th scope="col">Second factor</th>
            <th scope="col">Seen</th>
            <th scope="col">Signed in at</th>
            <th scope="col">
              <span className="visually-hidden">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {people.data.people.map((person) => (
            <PersonRow key={person.name} person={person} roles={roles} onLink={setMade} />
          ))}
        </tbody>
      </table>
      {invitations.length > 0 && <Invitations invitations={invitations} roles={roles} />}
    </article>
  );
}

function Invite({
  roles,
  onMade,
}: {
  readonly roles: readonly RoleView[];
  readonly onMade: (made: InvitationMade) => void;
}) {
  const client = useQueryClient();
  const [name, setName] = useState('');
  const [mail, setMail] = useState('');
  const [role, setRole] = useState('viewer');
  const invite = useMutation({
    mutationFn: () =>
      ask<InvitationMade>('/people/invitations', {
        method: 'POST',
        body: { name: name.trim(), mail: mail.trim(), role },
      }),
    onSuccess: async (made) => {
      setName('');
      setMail('');
      onMade(made);
      await client.invalidateQueries({ queryKey: keys.people });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim() !== '') invite.mutate();
  };
  return (
    <section aria-label="Invite somebody">
      <form className="field-tools" onSubmit={submit}>
        <TextInput
          label="Invite somebody, who signs in as"
          placeholder="jarl"
          maxLength={80}
          value={name}
          onChange={({ currentTarget }) => setName(currentTarget.value)}
        />
        <TextInput
          label="E-mail, if they have one"
          placeholder="jarl@skerry-line.example"
          type="email"
          value={mail}
          onChange={({ currentTarget }) => setMail(currentTarget.value)}
          w={240}
        />
        <Select
          label="As"
          data={roles.map(({ key, name }) => ({ value: key, label: name }))}
          value={role}
          onChange={(next) => setRole(next ?? role)}
          allowDeselect={false}
          w={160}
        />
        <Button type="submit" disabled={name.trim() === ''} loading={invite.isPending}>
          Invite
        </Button>
      </form>
      {invite.isError && <Failure error={invite.error} />}
    </section>
  );
}

/** A link that was made: it is shown this once. */
function Link({ made: { kind, name, link, mailed, mail, endsAt } }: { readonly made: InvitationMade }) {
  return (
    <div className="note" role="status">
      {kind === 'join' ? `${name} joins` : `${name} chooses another password`} with this link, once, until{' '}
      {shortTime(endsAt)}. It is shown now and never again{mailed ? `, and was mailed to ${mail}` : ''}:{' '}
      <span className="mono breaks">{link}</span> <Copy text={link} what="the link" />
    </div>
  );
}

function Invitations({
  invitations,
  roles,
}: {
  readonly invitations: readonly InvitationView[];
  readonly roles: readonly RoleView[];
}) {
  const client = useQueryClient();
  const mayChange = useMay('people.change');
  const withdraw = useMutation({
    mutationFn: (id: string) => ask(`/people/invitations/${id}`, { method: 'DELETE' }),
    onSuccess: async (_nothing, id) => {
      client.setQueryData<PeopleView>(
        keys.people,
        (view) => view && { ...view, invitations: view.invitations.filter((each) => each.id !== id) },
      );
      tell('That link leads nowhere now. Whoever still needs one can be given another.');
      await client.invalidateQueries({ queryKey: keys.people });
    },
    onError: (error) => tellTrouble(sentenceOf(error)),
  });
  return (
    <section aria-label="Invitations">
      <h2>Not used yet</h2>
      <table className="people">
        <thead>
          <tr>
            <th scope="col">For</th>
            <th scope="col">To</th>
            <th scope="col">Made by</th>
            <th scope="col">Ends</th>
            <th scope="col">
              <span className="visually-hidden">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {invitations.map(({ id, kind, name, role, madeBy, endsAt }) => (
            <tr key={id}>
              <td className="mono">{name}</td>
              <td>
                {kind === 'join'
                  ? `join as ${roles.find(({ key }) => key === role)?.name ?? role ?? ''}`
                  : 'choose another password'}
              </td>
              <td>{madeBy}</td>
              <td>{shortTime(endsAt)}</td>
              <td className="end">
                {mayChange && (
                  <Button
                    variant="subtle"
                    aria-label={`Withdraw the link of ${name}`}
                    onClick={() => withdraw.mutate(id)}
                  >
                    Withdraw
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
