import { ActionIcon, Button, Tooltip } from '@mantine/core';
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard } from '@tabler/icons-react';
import { memo } from 'react';
import { useMay } from '../frame/useMay';

interface SheetActionsProps extends StepsProps {
  readonly publishLabel: string;
  readonly publishable: boolean;
  readonly publishing: boolean;
  readonly onPublish: () => void;
  readonly runs: boolean;
  readonly withdrawing: boolean;
  readonly onWithdraw: () => void;
}

/** What can be done with the whole sheet. */
export function SheetActions(props: SheetActionsProps) {
  const { undo, redo, showKeys, publishLabel, publishable, publishing, onPublish, runs, withdrawing } = props;
  const mayPublish = useMay('rules.publish');
  return (
    <>
      <UndoRedo undo={undo} redo={redo} showKeys={showKeys} />
      {mayPublish && (
        <>
          {runs && (
            <Button variant="subtle" onClick={() => props.onWithdraw()} loading={withdrawing}>
              Stop running
            </Button>
          )}
          <Button color="ember" disabled={!publishable} onClick={() => onPublish()} loading={publishing}>
            {publishLabel}
          </Button>
        </>
      )}
    </>
  );
}

interface StepsProps {
  readonly undo: (() => void) | undefined;
  readonly redo: (() => void) | undefined;
  readonly showKeys: () => void;
}

const UndoRedo = memo(function UndoRedo({ undo, redo, showKeys }: StepsProps) {
  const mayChange = useMay('rules.edit');
  return (
    <>
      <Tooltip label="Keys (?)">
        <ActionIcon variant="subtle" aria-label="Keys of the rule sheet" onClick={showKeys}>
          <IconKeyboard size={16} />
        </ActionIcon>
      </Tooltip>
      {mayChange && (
        <>
          <Tooltip label="Undo (Ctrl+Z)">
            <ActionIcon variant="subtle" aria-label="Undo" disabled={!undo} onClick={undo}>
              <IconArrowBackUp size={16} />
            </ActionIcon>
          </Tooltip>
          <Tooltip label="Redo (Ctrl+Shift+Z)">
            <ActionIcon variant="subtle" aria-label="Redo" disabled={!redo} onClick={redo}>
              <IconArrowForwardUp size={16} />
            </ActionIcon>
          </Tooltip>
        </>
      )}
    </>
  );
});
