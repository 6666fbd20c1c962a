import { Button } from '@mantine/core';
import { BothAsJson } from '../parts/BothAsJson';
import type { SampleConflict } from './useSampleChange';

interface SampleConflictNoteProps {
  readonly conflict: SampleConflict;
  readonly saveOver: () => void;
  readonly leave: () => void;
  readonly busy: boolean;
}

/** What somebody else made of a sample beside what was to be saved, and which of the two is to stand. */
export function SampleConflictNote({ conflict, saveOver, leave, busy }: SampleConflictNoteProps) {
  const { says, theirs, mine } = conflict;
  const { masked: _masked, records: _records, was: _was, ...said } = mine;
  const of = (sample: object) =>
    Object.fromEntries(Object.keys(said).map((member) => [member, sample[member as keyof typeof sample]]));
  return (
    <section className="note wrong" role="alert" aria-label="Changed by somebody else">
      <p className="flush">{says} Yours is not saved yet: choose which of the two is to stand.</p>
      <BothAsJson theirs={of(theirs)} mine={of(said)} />
      <Button size="compact-sm" variant="default" onClick={leave}>
        Leave theirs
      </Button>{' '}
      <Button size="compact-sm" loading={busy} onClick={saveOver}>
        Save mine over it
      </Button>
    </section>
  );
}
