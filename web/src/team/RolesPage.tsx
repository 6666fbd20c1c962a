import { Button, Checkbox, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { allRights, rights, type PeopleView, type Right, type RoleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, usePeople } from '../api/queries';
import { useMay, useRights } from '../frame/useMay';
import { keyFor } from '../parts/keyFor';
import { Failure, Loading } from '../parts/states';
import { tell, tellTrouble, tellWithUndo } from '../parts/toast';
import { useAddress } from '../parts/useAddress';

/** The roles, each with what it may, and roles of one's own beside those that every environment has. */
export function RolesPage() {
  const people = usePeople();
  const mayChange = useMay('people.change');
  const [address, put] = useAddress();
  const open = address.get('role') ?? '';
  if (people.isPending) return <Loading />;
  if (people.isError) return <Failure error={people.error} again={() => void people.refetch()} />;
  return (
    <article className="page" aria-label="Roles">
      <div className="page-head">
        <h1>Roles</h1>
        <span className="dim">lists of what somebody may; each person has one</span>
        {mayChange && open !== 'new' && (
          <span className="end">
            <Button onClick={() => put({ role: 'new' })}>Make a role</Button>
          </span>
        )}
      </div>
      {open === 'new' && <RoleForm known={people.data.roles} onDone={() => put({ role: '' })} />}
      {people.data.roles.map((role) => (
        <Role
          key={role.key}
          role={role}
          known={people.data.roles}
          opened={open === role.key}
          onOpen={(opened) => put({ role: opened ? role.key : '' })}
        />
      ))}
    </article>
  );
}

function Role({
  role,
  known,
  opened,
  onOpen,
}: {
  readonly role: RoleView;
  readonly known: readonly RoleView[];
  readonly opened: boolean;
  readonly onOpen: (opened: boolean) => void;
}) {
  const mayChange = useMay('people.change');
  const save = useSave();
  const client = useQueryClient();
  const { key, revision, name, says, rights: may, secondFactor } = role;
  const said = { name, says, rights: may, secondFactor };
  const remove = useMutation({
    mutationFn: () => ask<PeopleView>(`/roles/${key}`, { method: 'DELETE' }),
    onSuccess: (view) => {
      client.setQueryData(keys.people, view);
      tellWithUndo({
        text: `The role ${name} is removed.`,
        undo: () => save.mutate({ key, revision: 0, said }),
      });
    },
    onError: (error) => tellTrouble(sentenceOf(error)),
  });
  return (
    <section className="role" aria-label={name}>
      <div className="field-tools">
        <h2 className="flush">{name}</h2>
        <span className="dim">
          {role.people === 1 ? '1 person' : `${role.people} people`}, {may.length} of {allRights.length}{' '}
          rights
        </span>
        <Button variant="subtle" aria-expanded={opened} onClick={() => onOpen(!opened)}>
          {opened ? 'Fold' : role.builtIn || !mayChange ? 'What it may' : 'Change it'}
        </Button>
        {mayChange && !role.builtIn && (
          <Button variant="subtle" onClick={() => remove.mutate()}>
            Remove
          </Button>
        )}
        <Checkbox
          label="wants a second factor"
          checked={secondFactor}
          disabled={!mayChange || save.isPending}
          onChange={({ currentTarget }) =>
            save.mutate({ key, revision, said: { ...said, secondFactor: currentTarget.checked } })
          }
        />
      </div>
      <p className="flush">{says}</p>
      {opened &&
        (role.builtIn || !mayChange ? (
          <ul>
            {may.map((right) => (
              <li key={right}>{rights[right]}</li>
            ))}
          </ul>
        ) : (
          <RoleForm key={revision} role={role} known={known} onDone={() => onOpen(false)} />
        ))}
    </section>
  );
}

interface Said {
  readonly name: string;
  readonly says: string;
  readonly rights: readonly Right[];
  readonly secondFactor: boolean;
}

function useSave(onDone?: () => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({
      key,
      revision,
      said,
    }: {
      readonly key: string;
      readonly revision: number;
      readonly said: Said;
    }) => ask<PeopleView>(`/roles/${key}`, { method: 'PUT', ifMatch: revision, body: said }),
    onSuccess: (view, { said }) => {
      client.setQueryData(keys.people, view);
      tell(`The role ${said.name} is kept.`);
      onDone?.();
    },
    onError: (error) => tellTrouble(sentenceOf(error)),
  });
}

function RoleForm({
  role,
  known,
  onDone,
}: {
  readonly role?: RoleView;
  readonly known: readonly RoleView[];
  readonly onDone: () => void;
}) {
  const mine = useRights();
  const viewer = known.find(({ key }) => key === 'viewer')?.rights ?? [];
  const [name, setName] = useState(role?.name ?? '');
  const [says, setSays] = useState(role?.says ?? '');
  const [chosen, setChosen] = useState<readonly Right[]>(role?.rights ?? viewer);
  const save = useSave(onDone);
  return (
    <form
      aria-label={role ? `Change ${role.name}` : 'A new role'}
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() === '') return;
        const said = {
          name: name.trim(),
          says: says.trim(),
          rights: allRights.filter((right) => chosen.includes(right)),
          secondFactor: role?.secondFactor ?? false,
        };
        save.mutate({ key: role?.key ?? keyFor(name, 'role', known), revision: role?.revision ?? 0, said });
      }}
    >
      <div className="field-tools">
        <TextInput
          label="Called"
          placeholder="Night watch"
          maxLength={60}
          value={name}
          onChange={({ currentTarget }) => setName(currentTarget.value)}
        />
        <TextInput
          label="For whom it is"
          placeholder="Watches runs at night and stops what goes wrong."
          maxLength={200}
          value={says}
          onChange={({ currentTarget }) => setSays(currentTarget.value)}
          w={420}
        />
      </div>
      <Checkbox.Group label="It may" value={[...chosen]} onChange={(next) => setChosen(next as Right[])}>
        <div className="rights-of">
          {allRights.map((right) => (
            <Checkbox key={right} value={right} label={rights[right]} disabled={!mine.has(right)} />
          ))}
        </div>
      </Checkbox.Group>
      <div className="field-tools">
        <Button type="submit" disabled={name.trim() === ''} loading={save.isPending}>
          {role ? 'Keep the change' : 'Make the role'}
        </Button>
        <Button variant="subtle" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}
