import { SegmentedControl } from '@mantine/core';
import {
  fieldAt,
  type Json,
  type ReconcileFilter,
  type ReconcileGroup,
  type ReconcileGrouping,
} from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { Failure } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import type { AddressChanges } from '../parts/useAddress';
import { Value } from '../parts/Value';
import { standingWords } from './standingWords';
import { useReconcileGroups } from './useReconcile';
import { digits } from '../parts/habits';

interface GroupsProps {
  readonly id: string;
  readonly filter: ReconcileFilter;
  readonly live: boolean;
  readonly params: URLSearchParams;
  readonly put: (changes: AddressChanges) => void;
}

const groupings: readonly (readonly [ReconcileGrouping, string])[] = [
  ['field', 'field'],
  ['values', 'values'],
  ['cause', 'reason'],
];

/** What a group sets, so that pressing another one takes its place. */
const nothing: AddressChanges = { about: '', path: '', before: '', after: '', cause: '' };

/** Records that differ alike, the most first; pressing a group narrows the list to it. */
export function Groups({ id, filter, live, params, put }: GroupsProps) {
  const by = groupings.find(([each]) => each === params.get('by'))?.[0] ?? 'field';
  const { standing, search, outcome } = filter;
  const within: ReconcileFilter = {
    ...(standing && { standing }),
    ...(search && { search }),
    ...(outcome && { outcome }),
  };
  const groups = useReconcileGroups(id, within, by, live);
  const most = Math.max(1, ...(groups.data ?? []).map((group) => group.count));
  const isPressed = (group: ReconcileGroup) =>
    Object.entries(group.filter).every(([name, value]) => params.get(name) === value);
  return (
    <section className="look-groups" aria-label="Groups">
      <div className="list-head">
        <span className="small dim">Put together by</span>
        <SegmentedControl
          aria-label="Put together by"
          size="xs"
          data={groupings.map(([value, label]) => ({ value, label }))}
          value={by}
          onChange={(value) => put({ ...nothing, by: value })}
        />
      </div>
      {groups.isError && <Failure error={groups.error} again={() => void groups.refetch()} />}
      {groups.data?.length === 0 && (
        <p className="dim small">
          {by === 'cause' ? 'Nothing has to be explained.' : 'No field would be other than it is.'}
        </p>
      )}
      <ul className="groups">
        {(groups.data ?? []).map((group) => {
          const pressed = isPressed(group);
          return (
            <li key={JSON.stringify(group.filter)}>
              <button
                type="button"
                className="standing-bar group"
                aria-pressed={pressed}
                onClick={() => put(pressed ? nothing : { ...nothing, ...(group.filter as AddressChanges) })}
              >
                <span className="cut">
                  <GroupName group={group} />
                </span>
                <span className="mono number">{digits(group.count)}</span>
                <span
                  className="measure will"
                  style={{ width: `${(group.count / most) * 100}%` }}
                  aria-hidden
                />
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function GroupName({ group: { filter, deed } }: { readonly group: ReconcileGroup }) {
  const systems = useSystems().data ?? [];
  if (filter.cause !== undefined)
    return (
      <>
        {filter.standing && <span className="small dim">{standingWords[filter.standing][1]}: </span>}
        {filter.cause}
      </>
    );
  const [key = '', name] = (filter.about ?? '').split('/');
  const type = systems.find((system) => system.key === key)?.recordTypes.find((each) => each.name === name);
  const path = filter.path ?? '';
  const field = type && fieldAt(type.fields, path);
  return (
    <>
      {type && <SystemTag system={key} />}{' '}
      {deed === 'message' ? `message to ${key}` : (type?.label ?? filter.about)}{' '}
      {path === '' ? (deed === 'remove' ? 'is removed' : '') : (field?.label ?? path)}
      {filter.before !== undefined && filter.after !== undefined && (
        <>
          {': '}
          <Value json={JSON.parse(filter.before) as Json} field={field} />
          <span className="arrow"> → </span>
          <Value json={JSON.parse(filter.after) as Json} tone="will" field={field} />
        </>
      )}
    </>
  );
}
