import { useState } from 'react';
import { isTyping } from '../parts/isTyping';
import { useKeys } from '../parts/useKeys';

/** Whether it is told what the place at hand is for: opened by `?` and by the button in the bar. */
export function useAboutPlace() {
  const [opened, setOpened] = useState(false);
  useKeys((event) =>
    event.key === '?' && !event.ctrlKey && !event.metaKey && !isTyping(event.target)
      ? () => setOpened(!opened)
      : undefined,
  );
  return { opened, open: () => setOpened(true), close: () => setOpened(false) };
}
