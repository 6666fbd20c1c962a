import { jsonDifferences } from '@vast-knot/core';

/** What two say differently, place by place: what somebody else saved, and what is at hand. */
export function BothAsJson({ theirs, mine }: { readonly theirs: unknown; readonly mine: unknown }) {
  const { changes, more } = jsonDifferences(theirs, mine);
  return (
    <>
      <table className="grid boxed">
        <thead>
          <tr>
            <th>Where</th>
            <th>Theirs, as it is now</th>
            <th>Yours</th>
          </tr>
        </thead>
        <tbody>
          {changes.map(({ at, before, after }) => (
            <tr key={at}>
              <td>{at.slice(1).replaceAll('/', ', ')}</td>
              <td className="value">{before ?? <span className="dim">nothing</span>}</td>
              <td className="value">{after ?? <span className="dim">nothing</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {more > 0 && <p className="small">and {more} more</p>}
    </>
  );
}
