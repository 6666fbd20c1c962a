import { Link } from 'react-router';
import { linesIn, parsePlace, type RuleBody, type TableSummary } from '@vast-knot/core';
import { printLineKey } from '../rules/lineKey';
import { useRules } from '../api/queries';

/** The rules that read a table, each with the lines that do. */
export function WhereUsed({ usedBy }: { readonly usedBy: TableSummary['usedBy'] }) {
  const rules = useRules().data ?? [];
  if (usedBy.length === 0) return <p className="dim small where-used">No rule reads it.</p>;
  return (
    <p className="dim small where-used">
      Read by{' '}
      {usedBy.map(({ id, name, at }, index) => {
        const body = rules.find((rule) => rule.id === id)?.draft;
        return (
          <span key={id}>
            {index > 0 && ' · '}
            <Link to={`/rules/${id}`}>{name}</Link>
            {at.map((place) => (
              <UsedAt key={place} id={id} place={place} body={body} />
            ))}
          </span>
        );
      })}
    </p>
  );
}

function UsedAt({
  id,
  place,
  body,
}: {
  readonly id: string;
  readonly place: string;
  readonly body: RuleBody | undefined;
}) {
  const at = parsePlace(place);
  const field = at.of === 'line' ? linesIn(body?.actions[at.at])[at.line]?.field : undefined;
  if (at.of !== 'line' || field === undefined) return <>, {at.of === 'rule' ? 'only if' : 'find'}</>;
  return (
    <>
      ,{' '}
      <Link
        to={`/rules/${id}?line=${encodeURIComponent(printLineKey({ action: at.at, field }))}`}
        className="mono"
      >
        {field}
      </Link>
    </>
  );
}
