import { ActionIcon, Button, Menu } from '@mantine/core';
import { IconDownload } from '@tabler/icons-react';

interface AsFileProps {
  /** The address that gives the list, with what it is narrowed by. */
  readonly path: string;
  readonly params?: URLSearchParams;
  /** What the list holds, where the page shows more than one. */
  readonly what?: string;
  /** Shows a picture alone, where there is little room. */
  readonly narrow?: boolean;
}

const formats = [
  ['csv', '', 'CSV'],
  ['csv', 'yes', 'CSV for a spreadsheet: no cell is run as a formula'],
  ['xlsx', '', 'XLSX'],
  ['json lines', '', 'JSON lines'],
] as const;

/** Gives the list at hand as a file, narrowed as it is. */
export function AsFile({ path, params = new URLSearchParams(), what, narrow = false }: AsFileProps) {
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        {narrow ? (
          <ActionIcon variant="default" size={30} aria-label="As a file" title="As a file">
            <IconDownload size={14} />
          </ActionIcon>
        ) : (
          <Button variant="default" leftSection={<IconDownload size={13} />}>
            {what === undefined ? 'As a file' : `${what} as a file`}
          </Button>
        )}
      </Menu.Target>
      <Menu.Dropdown>
        {formats.map(([as, guard, label]) => {
          const query = new URLSearchParams(params);
          query.set('as', as);
          if (guard !== '') query.set('guard', guard);
          return (
            <Menu.Item key={label} component="a" href={`/api${path}?${query.toString()}`} download>
              {label}
            </Menu.Item>
          );
        })}
      </Menu.Dropdown>
    </Menu>
  );
}
