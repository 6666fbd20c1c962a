import { Button } from '@mantine/core';
import type { Find, NearMiss, Step } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { FindWork } from '../../parts/FindWork';
import type { FindEdits } from './findEdits';

interface FoundNoteProps {
  readonly find: Find;
  readonly found: Extract<Step, { kind: 'find' }>;
  readonly set: FindEdits['set'];
}

/** What a find gave for the present sample, with the values as they were compared; where it gave nothing, what was near. */
export function FoundNote({ find, found, set }: FoundNoteProps) {
  const mayChange = useMay('rules.edit');
  const mend = (miss: NearMiss) =>
    set({
      match: find.match.map((condition, at) =>
        at === miss.condition
          ? {
              ...condition,
              ...(miss.as !== undefined && { as: miss.as }),
              ...(miss.asWanted !== undefined && { formula: miss.asWanted }),
            }
          : condition,
      ),
    });
  return (
    <div className="found">
      <span className="small dim">This sample: </span>
      <FindWork
        step={found}
        fix={(miss) =>
          mayChange && (miss.as !== undefined || miss.asWanted !== undefined) ? (
            <Button size="compact-xs" variant="light" onClick={() => mend(miss)}>
              Compare them alike
            </Button>
          ) : null
        }
      />
    </div>
  );
}
