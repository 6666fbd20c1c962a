import { Button } from '@mantine/core';
import type { ImportView } from '@vast-knot/core';
import { useImports } from '../api/queries';
import { Failure } from '../parts/states';
import { count, shortTime } from '../parts/time';
import { useUndoImport } from './useUndoImport';

/** What was taken in before, and taking it back. */
export function DoneImports({ mayUndo }: { readonly mayUndo: boolean }) {
  const imports = useImports();
  const undo = useUndoImport();
  if (imports.isError) return <Failure error={imports.error} again={() => void imports.refetch()} />;
  if (!imports.data || imports.data.length === 0) return null;
  return (
    <section aria-label="Taken in before" className="moving-part">
      <h2>Taken in before</h2>
      <table className="grid boxed">
        <thead>
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>From</th>
            <th>What</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {imports.data.map((each) => (
            <Done
              key={each.id}
              done={each}
              undo={mayUndo ? () => undo.mutate(each.id) : undefined}
              busy={undo.isPending}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

interface DoneProps {
  readonly done: ImportView;
  readonly undo: (() => void) | undefined;
  readonly busy: boolean;
}

function Done({ done: { at, by, files, took, undone, running }, undo, busy }: DoneProps) {
  return (
    <tr>
      <td className="nowrap">{shortTime(at)}</td>
      <td>{by}</td>
      <td>
        {files.length > 3 ? `${files.slice(0, 3).join(', ')} and ${files.length - 3} more` : files.join(', ')}
      </td>
      <td>
        {took.length === 0 ? (
          <span className="dim">nothing; all was here</span>
        ) : (
          <details>
            <summary>
              {count(took.length, 'thing')}
              {running && ', rules running'}
            </summary>
            <ul className="small">
              {took.map(({ kind, key, name }) => (
                <li key={`${kind} ${key}`}>
                  <span className="dim">{kind}</span> {name}
                </li>
              ))}
            </ul>
          </details>
        )}
      </td>
      <td className="nowrap">
        {undone ? (
          <span className="dim">
            taken back by {undone.by}, {shortTime(undone.at)}
          </span>
        ) : (
          undo &&
          took.length > 0 && (
            <Button variant="default" size="compact-sm" loading={busy} onClick={undo}>
              Take back
            </Button>
          )
        )}
      </td>
    </tr>
  );
}
