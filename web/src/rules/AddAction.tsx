import { Button, Menu } from '@mantine/core';
import { memo, useState } from 'react';
import { actionKinds, freeName, nameOfCreated, type RulePart } from '@vast-knot/core';
import { useEndpoints } from '../api/queries';
import { useMay } from '../frame/useMay';
import { copiedPart } from './part/copied';
import { partWords } from './part/partWords';
import { pastePart } from './part/usePartClipboard';
import { useSheetTools } from './SheetContext';

/** Further actions of the rule, done after those above. */
export const AddAction = memo(function AddAction() {
  const { edit, systems, current } = useSheetTools();
  const [copied, setCopied] = useState<RulePart>();
  const mayChange = useMay('rules.edit');
  // Until one is chosen; the sheet says that there is no such endpoint.
  const endpoint = useEndpoints().data?.[0]?.key ?? 'none';
  if (!mayChange) return null;
  return (
    <div className="ledger-tools">
      <Menu position="bottom-start" onOpen={() => setCopied(copiedPart())}>
        <Menu.Target>
          <Button variant="subtle">Do something more</Button>
        </Menu.Target>
        <Menu.Dropdown>
          {Object.values(actionKinds).map(({ kind, offer, begin }) => (
            <Menu.Item
              key={kind}
              onClick={() =>
                edit((body) => {
                  const freeAlias = (type: string) => freeName(body, nameOfCreated(type));
                  const action = begin({ body, systems, endpoint, freeAlias });
                  return action ? { ...body, actions: [...body.actions, action] } : body;
                })
              }
            >
              {offer}
            </Menu.Item>
          ))}
          {copied && (
            <>
              <Menu.Divider />
              <Menu.Item onClick={() => pastePart(copied, { edit, current })}>
                Paste {partWords(copied)}
              </Menu.Item>
            </>
          )}
        </Menu.Dropdown>
      </Menu>
    </div>
  );
});
