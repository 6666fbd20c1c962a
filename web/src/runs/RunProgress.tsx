import { Progress } from '@mantine/core';
import { count } from '../parts/time';

/** How far a run has come that is still writing. */
export function RunProgress({ written, planned }: { readonly written: number; readonly planned: number }) {
  return (
    <div style={{ maxWidth: 520, marginBottom: 12 }} role="status">
      <Progress
        value={(100 * written) / Math.max(1, planned)}
        aria-label="Records written"
        size="lg"
        color="ember"
      />
      <span className="small">
        {written.toLocaleString('en')} of {count(planned, 'record')} written; other records are not held up
      </span>
    </div>
  );
}
