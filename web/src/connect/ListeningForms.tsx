import { Checkbox } from '@mantine/core';
import type { Compared } from '@vast-knot/core';
import { withMember } from '../parts/withMember';
import { Count } from './Inputs';

interface ComparedProps<L extends { readonly compared?: Compared }> {
  readonly listening: L;
  readonly set: (next: L) => void;
}

/** Whether all records are compared every so often. */
export function ComparedForm<L extends { readonly compared?: Compared }>({
  listening,
  set,
}: ComparedProps<L>) {
  const { compared } = listening;
  const put = (next: Compared | undefined) => set(withMember(listening, 'compared', next));
  return (
    <>
      <Checkbox
        label="All compared with what was last seen"
        checked={compared !== undefined}
        onChange={(event) => put(event.currentTarget.checked ? { everySeconds: 3600 } : undefined)}
        mb={8}
      />
      {compared && (
        <div className="indented">
          <Count
            label="Every so many seconds"
            min={5}
            max={604_800}
            value={compared.everySeconds}
            onChange={(everySeconds) => put({ everySeconds })}
          />
        </div>
      )}
    </>
  );
}

/** How often, and since when. */
interface Times {
  readonly everySeconds: number;
  readonly overlapSeconds: number;
}

/** How often it is asked what changed, and how much earlier than the last change. */
export function AskedTimes<T extends Times>({
  asked,
  set,
}: {
  readonly asked: T;
  readonly set: (next: T) => void;
}) {
  return (
    <>
      <Count
        label="Every so many seconds"
        min={5}
        value={asked.everySeconds}
        onChange={(everySeconds) => set({ ...asked, everySeconds })}
      />
      <Count
        label="Asked so many seconds earlier than the last"
        min={0}
        value={asked.overlapSeconds}
        onChange={(overlapSeconds) => set({ ...asked, overlapSeconds })}
      />
    </>
  );
}
