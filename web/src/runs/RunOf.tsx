import { isOneRecord, noRecord, type RunSummary } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';

interface RunOfProps {
  readonly run: RunSummary;
  /** Whether the id of the record stands with its name. */
  readonly withId?: boolean;
}

/** What a run is about: its record by name, so many of a type, or all of it where the run starts from none. */
export function RunOf({ run: { system, ref, recordName, kind }, withId = false }: RunOfProps) {
  const systems = useSystems().data ?? [];
  const type = systems
    .find(({ key }) => key === ref?.system)
    ?.recordTypes.find(({ name }) => name === ref?.recordType);
  const many = type?.plural.toLowerCase() ?? ref?.recordType ?? '';
  if (ref && ref.id !== noRecord && !isOneRecord(ref))
    return (
      <>
        <SystemTag system={system} /> {recordName ?? many} {kind}
      </>
    );
  if (ref?.id !== noRecord)
    return (
      <>
        <SystemTag system={system} /> {recordName ?? ref?.recordType ?? 'message'}{' '}
        {withId && (
          <>
            <span className="mono small dim">{ref?.id}</span>{' '}
          </>
        )}
        {kind}
      </>
    );
  return (
    <>
      <SystemTag system={system} /> all {many} {kind}
    </>
  );
}
