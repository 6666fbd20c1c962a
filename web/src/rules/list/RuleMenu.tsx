import { ActionIcon, Menu } from '@mantine/core';
import { IconDots } from '@tabler/icons-react';
import { Link } from 'react-router';
import type { RuleView } from '@vast-knot/core';
import type { RowDeeds } from './useRowDeeds';

interface RuleMenuProps {
  readonly rule: RuleView;
  readonly deeds: RowDeeds;
  readonly rename: () => void;
}

/** What can be done with one rule. */
export function RuleMenu({ rule, deeds, rename }: RuleMenuProps) {
  const { id, draft, published } = rule;
  const { mayEdit, mayPublish } = deeds;
  return (
    <Menu position="bottom-end" withinPortal returnFocus={false}>
      <Menu.Target>
        <ActionIcon variant="subtle" aria-label={`What to do with “${draft.name}”`}>
          <IconDots size={16} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item component={Link} to={`/rules/${id}/versions`}>
          Versions
        </Menu.Item>
        <Menu.Item component={Link} to={`/runs?rule=${id}`}>
          Its runs
        </Menu.Item>
        <Menu.Item component={Link} to={`/reconcile?rule=${id}`}>
          Beside the records that exist
        </Menu.Item>
        {mayEdit && (
          <>
            <Menu.Divider />
            <Menu.Item onClick={rename}>Rename</Menu.Item>
            <Menu.Item onClick={() => deeds.copy(rule)}>Duplicate</Menu.Item>
            <Menu.Item onClick={() => deeds.file(rule)}>Move to a folder</Menu.Item>
            <Menu.Divider />
            <Menu.Item
              color="rust"
              disabled={published !== null && !mayPublish}
              onClick={() => deeds.remove(rule)}
            >
              Remove
            </Menu.Item>
          </>
        )}
      </Menu.Dropdown>
    </Menu>
  );
}
