import { ActionIcon, CopyButton, Tooltip } from '@mantine/core';
import { IconCheck, IconCopy } from '@tabler/icons-react';

/** Puts a text on the clipboard. */
export function Copy({ text, what }: { readonly text: string; readonly what: string }) {
  return (
    <CopyButton value={text}>
      {({ copied, copy }) => (
        <Tooltip label={copied ? 'Copied' : `Copy ${what}`}>
          <ActionIcon variant="subtle" size="sm" aria-label={`Copy ${what}`} onClick={copy}>
            {copied ? <IconCheck size={13} /> : <IconCopy size={13} />}
          </ActionIcon>
        </Tooltip>
      )}
    </CopyButton>
  );
}
