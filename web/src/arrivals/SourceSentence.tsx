import type { FileSource, System } from '@vast-knot/core';
import { scheduleText } from '../parts/SchedulePhrase';
import { SystemTag } from '../parts/SystemTag';

/** What is said of a source, as a sentence. */
export function SourceSentence({
  source: { origin, system, recordType, apply, expected },
  inlets,
}: {
  readonly source: FileSource;
  readonly inlets: readonly System[];
}) {
  const type = inlets.find(({ key }) => key === system)?.recordTypes.find(({ name }) => name === recordType);
  return (
    <>
      {origin.kind === 'address' ? (
        <>
          It is fetched from <span className="mono">{origin.url}</span> {scheduleText(origin.schedule)}
        </>
      ) : (
        <>
          Files called <span className="mono">{origin.pattern}</span> are taken from the folder{' '}
          <strong>{origin.folder}</strong>, looked at each minute
        </>
      )}
      . Each record becomes <SystemTag system={system} /> {type?.label ?? recordType};{' '}
      {apply ? 'what can be applied is, by itself' : 'nothing is applied before a person says so'}.{' '}
      {expected ? `One is expected ${scheduleText(expected)}.` : 'None is expected at a certain time.'}
    </>
  );
}
