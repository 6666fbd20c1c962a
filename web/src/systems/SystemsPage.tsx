import { useCallback } from 'react';
import { Link, NavLink, useParams } from 'react-router';
import { leafFields, watchableFields, type Field, type RecordType, type SystemView } from '@vast-knot/core';
import { useSystems, useSystemsHealth } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';
import { Empty, Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { useAddress } from '../parts/useAddress';
import { useMay } from '../frame/useMay';
import { Exchanges } from './Exchanges';
import { SchemaRefreshed } from './SchemaRefreshed';
import { Standing } from './Standing';
import { SystemActions } from './SystemActions';
import { standingOf } from './standing';

/** The connected systems, and the schema of the one at hand. */
export function SystemsPage() {
  const { system: key } = useParams();
  const systems = useSystems();
  if (systems.isPending) return <Loading />;
  if (systems.isError) return <Failure error={systems.error} again={() => void systems.refetch()} />;
  const system = systems.data.find((each) => each.key === key) ?? systems.data[0];
  if (!system)
    return (
      <Empty title="No system is connected yet">
        <Link to="/systems/connect">Connect a system</Link>: from its OpenAPI document, from some of its
        records, or by hand.
      </Empty>
    );
  return (
    <div className="split systems-beside">
      <nav aria-label="Systems" className="side-list">
        {systems.data.map((each) => (
          <NavLink
            key={each.key}
            to={`/systems/${each.key}`}
            className={`row side-entry ${each === system ? 'active' : ''}`}
          >
            <SystemTag system={each.key} named />
            <StandingWord system={each.key} />
            <span className="small dim">{each.recordTypes.map(({ plural }) => plural).join(', ')}</span>
          </NavLink>
        ))}
        <NavLink to="/systems/connect" className="row side-entry">
          Connect a system …
        </NavLink>
        <NavLink to="/addresses" className="row side-entry">
          Outside addresses …
        </NavLink>
      </nav>
      <Schema system={system} />
    </div>
  );
}

/** Whether a system answers, where it does not as it should. */
function StandingWord({ system }: { readonly system: string }) {
  const health = useSystemsHealth().data?.find((each) => each.system === system);
  const verdict = health && health.standing !== 'answers' ? standingOf(health) : undefined;
  return verdict ? <Verdict tone={verdict[0]}>{verdict[1]}</Verdict> : null;
}

function Schema({ system }: { readonly system: SystemView }) {
  const [params] = useAddress();
  const maySee = useMay('systems.change');
  const part = params.get('part') === 'exchanges' && system.reached === 'connection' ? 'exchanges' : 'fields';
  const first = system.recordTypes[0]?.name ?? '';
  return (
    <div className="page">
      <div className="page-head">
        <h1>
          <SystemTag system={system.key} named />
        </h1>
        <span className="dim mono">{system.baseUrl}</span>
        <span className="end">
          {system.reached === 'inlet' ? (
            <span className="dim">Rows and answers come in here; it keeps no records.</span>
          ) : (
            <Link to={`/records?left=${system.key}/${first}`}>Look at its records</Link>
          )}
        </span>
      </div>
      <Standing system={system} />
      {system.reached === 'connection' && (
        <div className="system-tabs">
          <nav className="list-tabs" aria-label={`Parts of ${system.name}`}>
            <Link
              to="?"
              className={part === 'fields' ? 'active' : ''}
              aria-current={part === 'fields' ? 'page' : undefined}
            >
              Record types
            </Link>
            {maySee && (
              <Link
                to="?part=exchanges"
                className={part === 'exchanges' ? 'active' : ''}
                aria-current={part === 'exchanges' ? 'page' : undefined}
              >
                Exchanges
              </Link>
            )}
          </nav>
          <SystemActions system={system} />
        </div>
      )}
      {part === 'exchanges' && maySee && <Exchanges system={system} />}
      {part === 'fields' && system.reached === 'connection' && <SchemaRefreshed system={system} />}
      {(part === 'fields' || !maySee ? system.recordTypes : []).map((type) => (
        <section key={type.name} className="record-type" aria-label={type.plural}>
          <h2>
            {type.plural} <span className="mono dim">{type.name}</span>{' '}
            <span className="dim small">{count(leafFields(type.fields).length, 'field')}</span>
          </h2>
          {system.reached === 'inlet' && (
            <Link to="/arrivals">Give a file of {type.plural.toLowerCase()}</Link>
          )}
          <FieldTable type={type} />
        </section>
      ))}
    </div>
  );
}

function FieldTable({ type }: { readonly type: RecordType }) {
  const [params] = useAddress();
  const sought = params.get('type') === type.name ? params.get('field') : null;
  // Whoever looked for a field finds it in sight.
  const inSight = useCallback(
    (row: HTMLTableRowElement | null) => row?.scrollIntoView({ block: 'center' }),
    [],
  );
  return (
    <table className="grid boxed">
      <thead>
        <tr>
          <th className="of24">Field</th>
          <th className="of22">API name</th>
          <th className="of12">Type</th>
          <th className="of14">Limits</th>
          <th>Options, references</th>
        </tr>
      </thead>
      <tbody>
        {watchableFields(type.fields).map(({ path, label, field }) => (
          <tr
            key={path}
            {...(path === sought && { ref: inSight, 'aria-current': true, className: 'sought' })}
          >
            <td>
              {label}{' '}
              {field.required && (
                <span className="required" title="required">
                  required
                </span>
              )}
              {field.readOnly && <span className="dim small"> read-only</span>}
            </td>
            <td className="mono">{path}</td>
            <td>{field.type}</td>
            <td className="mono">{limitsOf(field)}</td>
            <td>
              {field.keyField !== undefined && (
                <>
                  elements known by <span className="mono">{field.keyField}</span>
                </>
              )}
              {field.refersTo
                ? `→ ${field.refersTo.join(', ')}`
                : field.options?.map(({ value, label: name }) => `${value} (${name})`).join(', ')}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function limitsOf({ maxLength, min, max }: Field): string {
  const parts = [
    maxLength !== undefined && `≤ ${maxLength} chars`,
    min !== undefined && `≥ ${min}`,
    max !== undefined && `≤ ${max}`,
  ];
  return parts.filter(Boolean).join(', ');
}
