import { ActionIcon, Button, Tooltip } from '@mantine/core';
import { IconArrowBackUp, IconArrowForwardUp } from '@tabler/icons-react';
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
  /** What is being asked before it is done. */
  readonly asks: 'publish' | 'stop' | undefined;
}

/** What can be done with the whole sheet. */
export function SheetActions(props: SheetActionsProps) {
  const { undo, redo, publishLabel, publishable, publishing, onPublish, runs, withdrawing } = props;
  const mayPublish = useMay('rules.publish');
  return (
    <>
      <UndoRedo undo={undo} redo={redo} />
      {mayPublish && (
        <>
          {runs && (
            <Button
              variant="subtle"
              aria-expanded={props.asks === 'stop'}
              onClick={() => props.onWithdraw()}
              loading={withdrawing}
            >
              Stop running
            </Button>
          )}
          <Button
            color="ember"
            aria-expanded={props.asks === 'publish'}
            disabled={!publishable}
            onClick={() => onPublish()}
            loading={publishing}
          >
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
}

const UndoRedo = memo(function UndoRedo({ undo, redo }: StepsProps) {
  const mayChange = useMay('rules.edit');
  return (
    <>
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
