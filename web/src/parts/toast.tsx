import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';

interface Undoable {
  /** What happened, as a sentence. */
  readonly text: string;
  /** Takes it back. */
  readonly undo: () => void;
}

/** Long enough to be read and reached with keys. */
const shownMs = 12_000;

/** Tells what happened, with a button that takes it back. */
export function tellWithUndo({ text, undo }: Undoable): void {
  const id = notifications.show({
    autoClose: shownMs,
    withBorder: true,
    closeButtonProps: { 'aria-label': 'Close' },
    message: (
      <span className="toast">
        {text}{' '}
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => {
            notifications.hide(id);
            undo();
          }}
        >
          Undo
        </Button>
      </span>
    ),
  });
}

/** Tells what was done. */
export function tell(text: string): void {
  notifications.show({ withBorder: true, closeButtonProps: { 'aria-label': 'Close' }, message: text });
}

/** Tells what could not be done. */
export function tellTrouble(text: string): void {
  notifications.show({
    autoClose: false,
    color: 'rust',
    withBorder: true,
    closeButtonProps: { 'aria-label': 'Close' },
    message: text,
  });
}
