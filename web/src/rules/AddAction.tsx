import { Button, Menu } from '@mantine/core';
import { memo } from 'react';
import { actionKinds, targetName, type RuleBody } from '@vast-knot/core';
import { useEndpoints } from '../api/queries';
import { useMay } from '../frame/useMay';
import { useSheetTools } from './SheetContext';

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
          {Object.values(actionKinds).map(({ kind, offer, begin }) => (
            <Menu.Item
              key={kind}
              onClick={() =>
                edit((body) => {
                  const freeAlias = (type: string) => freeName(body, type);
                  const action = begin({ body, systems, endpoint, freeAlias });
                  return action ? { ...body, actions: [...body.actions, action] } : body;
                })
              }
            >
              {offer}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </div>
  );
});

function freeName(body: RuleBody, type: string): string {
  const taken = new Set([...body.finds.map(({ alias }) => alias), ...body.actions.map(targetName)]);
  const base = `new${type.charAt(0).toUpperCase()}${type.slice(1)}`;
  let alias = base;
  for (let number = 2; taken.has(alias); number++) alias = `${base}${number}`;
  return alias;
}
