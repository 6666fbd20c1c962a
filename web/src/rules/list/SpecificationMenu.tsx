import { Button, Menu } from '@mantine/core';
import { IconFileText } from '@tabler/icons-react';

/** Gives rules as a document for people who write none: the chosen ones, or all. */
export function SpecificationMenu({ rules }: { readonly rules?: readonly string[] }) {
  const query = rules ? `&rules=${rules.join(',')}` : '';
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <Button
          {...(rules && { size: 'compact-sm' as const })}
          variant="default"
          leftSection={<IconFileText size={13} />}
        >
          Specification
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item component="a" href={`/api/specification?as=html${query}`} target="_blank" rel="noreferrer">
          As a page, to be read and printed
        </Menu.Item>
        <Menu.Item component="a" href={`/api/specification?as=xlsx${query}`} download>
          As a workbook (XLSX)
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
