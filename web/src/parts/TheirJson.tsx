import { Button } from '@mantine/core';
import { jsonDifferences } from '@vast-knot/core';

interface TheirJsonProps {
  /** What was changed: “these settings”. */
  readonly what: string;
  /** As it was when it was begun to edit it, and as it is now. */
  readonly mine: object;
  readonly theirs: object;
  readonly take: () => void;
  readonly keep: () => void;
}

/** Somebody else changed something while it was edited here: what is other, and a choice. */
export function TheirJson({ what, mine, theirs, take, keep }: TheirJsonProps) {
  const { changes } = jsonDifferences(mine, theirs);
  return (
    <div className="note wrong" role="alert">
      <p className="flush">Somebody else changed {what} meanwhile. What you typed is still below.</p>
      <table className="theirs">
        <thead>
          <tr>
            <th scope="col">What</th>
            <th scope="col">As you began</th>
            <th scope="col">As they are now</th>
          </tr>
        </thead>
        <tbody>
          {changes.map(({ at, before, after }) => (
            <tr key={at}>
              <th scope="row">{at.slice(1).replaceAll('/', ', ')}</th>
              <td>{before ?? 'nothing'}</td>
              <td>{after ?? 'nothing'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button variant="default" onClick={take}>
        Take what is there now
      </Button>{' '}
      <Button variant="subtle" onClick={keep}>
        Keep what I typed, and save it over that
      </Button>
    </div>
  );
}
