import { SegmentedControl } from '@mantine/core';
import { useSearchParams } from 'react-router';
import type { Against } from './BenchPage';

const choices: readonly { readonly value: Against; readonly label: string }[] = [
  { value: 'published', label: 'As published' },
  { value: 'drafts', label: 'As edited' },
  { value: 'both', label: 'What editing changes' },
];

/** Which rules take part; it stands in the address. */
export function AgainstChoice({ against }: { readonly against: Against }) {
  const [, setParams] = useSearchParams();
  return (
    <SegmentedControl
      size="xs"
      aria-label="Which rules take part"
      data={[...choices]}
      value={against}
      onChange={(value) =>
        setParams(
          (now) => {
            const next = new URLSearchParams(now);
            if (value === 'published') next.delete('against');
            else next.set('against', value);
            return next;
          },
          { replace: true },
        )
      }
    />
  );
}
