import { Verdict } from '../parts/Verdict';

interface RunsVersionProps {
  /** The version that runs, if one does. */
  readonly version: number | undefined;
  /** Whether the draft is what runs. */
  readonly same: boolean;
}

/** Whether a rule runs, and whether its draft differs from what runs. */
export function RunsVersion({ version, same }: RunsVersionProps) {
  if (version === undefined) return <Verdict tone="quiet">draft, does not run</Verdict>;
  return same ? (
    <Verdict tone="settled">runs, version {version}</Verdict>
  ) : (
    <Verdict tone="will">runs version {version}, draft differs</Verdict>
  );
}
