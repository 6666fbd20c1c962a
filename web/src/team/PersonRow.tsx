import { Button, Menu, Select } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { InvitationMade, PeopleView, PersonView, RoleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { shortTime } from '../parts/time';
import { tell, tellTrouble, tellWithUndo } from '../parts/toast';

interface PersonChange {
  readonly role?: string;
  readonly stopped?: boolean;
}

/** A person in the list: what they are, and what can be done about it. */
export function PersonRow({
  person,
  roles,
  onLink,
}: {
  readonly person: PersonView;
  readonly roles: readonly RoleView[];
  readonly onLink: (made: InvitationMade) => void;
}) {
  const { name, fullName, mail, role, secondFactor, stoppedAt, seenAt, sessions, tokens } = person;
  const mayChange = useMay('people.change');
  const client = useQueryClient();
  const path = `/people/${encodeURIComponent(name)}`;
  const trouble = (error: unknown) => tellTrouble(sentenceOf(error));
  const change = useMutation({
    mutationFn: (body: PersonChange) => ask<PeopleView>(path, { method: 'PATCH', body }),
    onSuccess: (view) => client.setQueryData(keys.people, view),
    onError: trouble,
  });
  const signOut = useMutation({
    mutationFn: () => ask(`${path}/sign-out`, { method: 'POST', body: {} }),
    onSuccess: async () => {
      tell(`${name} is signed out everywhere.`);
      await client.invalidateQueries({ queryKey: keys.people });
    },
    onError: trouble,
  });
  const link = useMutation({
    mutationFn: () => ask<InvitationMade>(`${path}/password`, { method: 'POST', body: {} }),
    onSuccess: async (made) => {
      onLink(made);
      await client.invalidateQueries({ queryKey: keys.people });
    },
    onError: trouble,
  });
  const takeCodes = useMutation({
    mutationFn: () => ask<PeopleView>(`${path}/second-factor`, { method: 'DELETE' }),
    onSuccess: (view) => {
      client.setQueryData(keys.people, view);
      tell(`${name} signs in without codes until they set them up again.`);
    },
    onError: trouble,
  });
  const give = (next: string) =>
    change.mutate(
      { role: next },
      {
        onSuccess: () =>
          tellWithUndo({
            text: `${name} is ${roles.find(({ key }) => key === next)?.name ?? next} now.`,
            undo: () => change.mutate({ role }),
          }),
      },
    );
  const stop = (stopped: boolean) =>
    change.mutate(
      { stopped },
      {
        onSuccess: () =>
          stopped &&
          tellWithUndo({
            text: `${name} is signed out, their tokens have ended, and they cannot sign in.`,
            undo: () => change.mutate({ stopped: false }),
          }),
      },
    );
  return (
    <tr className={stoppedAt === null ? '' : 'stopped'}>
      <td>
        <span className="mono">{name}</span> <span className="dim">{fullName}</span>
        {mail !== '' && <div className="small dim">{mail}</div>}
      </td>
      <td>
        {mayChange && stoppedAt === null ? (
          <Select
            aria-label={`Role of ${name}`}
            data={roles.map((each) => ({ value: each.key, label: each.name }))}
            value={role}
            onChange={(next) => next !== null && next !== role && give(next)}
            allowDeselect={false}
            w={160}
          />
        ) : (
          (roles.find(({ key }) => key === role)?.name ?? role)
        )}
      </td>
      <td>{secondFactor ? 'codes' : <span className="dim">none</span>}</td>
      <td>
        {stoppedAt !== null ? (
          <span className="value wrong">stopped {shortTime(stoppedAt)}</span>
        ) : seenAt === null ? (
          <span className="dim">never</span>
        ) : (
          shortTime(seenAt)
        )}
      </td>
      <td>
        {sessions === 0 ? (
          <span className="dim">nowhere</span>
        ) : sessions === 1 ? (
          '1 browser'
        ) : (
          `${sessions} browsers`
        )}
        {tokens > 0 && `, ${tokens === 1 ? '1 token' : `${tokens} tokens`}`}
      </td>
      <td className="end">
        {mayChange && (
          <Menu position="bottom-end">
            <Menu.Target>
              <Button variant="default" aria-label={`What to do about ${name}`}>
                …
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item onClick={() => signOut.mutate()}>Sign out everywhere</Menu.Item>
              <Menu.Item onClick={() => link.mutate()}>Give a link for another password</Menu.Item>
              {secondFactor && (
                <Menu.Item onClick={() => takeCodes.mutate()}>
                  Take the second factor away (device lost)
                </Menu.Item>
              )}
              <Menu.Item onClick={() => stop(stoppedAt === null)}>
                {stoppedAt === null ? 'Stop from signing in' : 'Let sign in again'}
              </Menu.Item>
            </Menu.Dropdown>
          </Menu>
        )}
      </td>
    </tr>
  );
}
