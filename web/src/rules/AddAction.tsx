import { Button, Menu } from '@mantine/core';
import { memo } from 'react';
import { targetName, type Action, type RuleBody, type SystemView } from '@vast-knot/core';
import { useEndpoints } from '../api/queries';
import { useMay } from '../frame/useMay';
import { useSheetTools } from './SheetContext';

type Make = (body: RuleBody, systems: readonly SystemView[], endpoint: string) => Action | undefined;

/** What can be added, in the order of how often it is wanted. */
const kinds: readonly { readonly words: string; readonly make: Make }[] = [
  { words: 'Write to a record', make: () => ({ kind: 'write', target: 'record', lines: [] }) },
  { words: 'Create a record', make: newRecord },
  { words: 'Copy a record', make: copyOfTrigger },
  {
    words: 'Send a message',
    make: (body, _systems, endpoint) => ({
      kind: 'send',
      endpoint,
      type: `${body.trigger.recordType}.changed`,
      parts: [],
    }),
  },
  {
    words: 'Put the fields of a record in order',
    make: () => ({ kind: 'tidy', target: 'record', steps: [] }),
  },
  { words: 'Do what another rule does', make: () => ({ kind: 'apply', rule: 'none', target: 'record' }) },
  { words: 'Remove a record', make: removal },
];

/** Further actions of the rule, done after those above. */
export const AddAction = memo(function AddAction() {
  const { edit, systems } = useSheetTools();
  const mayChange = useMay('rules.edit');
  // Until one is chosen; the sheet says that there is no such endpoint.
  const endpoint = useEndpoints().data?.[0]?.key ?? 'none';
  if (!mayChange) return null;
  return (
    <div className="ledger-tools">
      <Menu position="bottom-start">
        <Menu.Target>
          <Button variant="subtle">Do something more</Button>
        </Menu.Target>
        <Menu.Dropdown>
          {kinds.map(({ words, make }) => (
            <Menu.Item
              key={words}
              onClick={() =>
                edit((body) => {
                  const action = make(body, systems, endpoint);
                  return action ? { ...body, actions: [...body.actions, action] } : body;
                })
              }
            >
              {words}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </div>
  );
});

/** A new record in the system other than the trigger's, under a name that nothing has yet. */
function newRecord(body: RuleBody, systems: readonly SystemView[]): Action | undefined {
  const system = systems.find(({ key }) => key !== body.trigger.system) ?? systems[0];
  const type = system?.recordTypes[0];
  if (!system || !type) return undefined;
  return {
    kind: 'create',
    alias: freeName(body, type.name),
    system: system.key,
    recordType: type.name,
    lines: [],
  };
}

function copyOfTrigger(body: RuleBody): Action {
  const { system, recordType } = body.trigger;
  return { kind: 'copy', of: 'record', alias: freeName(body, recordType), system, recordType, lines: [] };
}

/** What a find reached is more likely to go than what started the rule. */
function removal({ finds }: RuleBody): Action {
  return { kind: 'remove', target: finds[0]?.alias ?? 'record' };
}

function freeName(body: RuleBody, type: string): string {
  const taken = new Set([...body.finds.map(({ alias }) => alias), ...body.actions.map(targetName)]);
  const base = `new${type.charAt(0).toUpperCase()}${type.slice(1)}`;
  let alias = base;
  for (let number = 2; taken.has(alias); number++) alias = `${base}${number}`;
  return alias;
}
