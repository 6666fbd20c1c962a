import { Button } from '@mantine/core';
import { memo } from 'react';
import { targetName, type Action, type RuleBody, type SystemView } from '@vast-knot/core';
import { useMayChange } from '../frame/useRole';
import { useSheetTools } from './SheetContext';

/** Further actions: each writes to a record, or creates one. */
export const AddAction = memo(function AddAction() {
  const { edit, systems } = useSheetTools();
  const mayChange = useMayChange();
  if (!mayChange) return null;
  const add = (make: (body: RuleBody) => Action | undefined) =>
    edit((body) => {
      const action = make(body);
      return action ? { ...body, actions: [...body.actions, action] } : body;
    });
  return (
    <div className="ledger-tools">
      <Button variant="subtle" onClick={() => add((body) => newRecord(body, systems))}>
        Create a record
      </Button>
      <Button variant="subtle" onClick={() => add(() => ({ kind: 'write', target: 'record', lines: [] }))}>
        Write to another record
      </Button>
    </div>
  );
});

/** A new record in the system other than the trigger's, under a name that nothing has yet. */
function newRecord(body: RuleBody, systems: readonly SystemView[]): Action | undefined {
  const system = systems.find(({ key }) => key !== body.trigger.system) ?? systems[0];
  const type = system?.recordTypes[0];
  if (!system || !type) return undefined;
  const taken = new Set([...body.finds.map(({ alias }) => alias), ...body.actions.map(targetName)]);
  const base = `new${type.name.charAt(0).toUpperCase()}${type.name.slice(1)}`;
  let alias = base;
  for (let number = 2; taken.has(alias); number++) alias = `${base}${number}`;
  return { kind: 'create', alias, system: system.key, recordType: type.name, lines: [] };
}
