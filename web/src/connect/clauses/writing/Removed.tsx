import { Choice, Text } from '../../Inputs';
import { PartClause, setterOf } from '../../PartClause';
import type { TypeParts } from '../../sheetParts';

/** How records are removed, or retired. */
export function Removed(parts: TypeParts) {
  const { removing, path } = parts.style;
  const set = setterOf(parts, 'removing');
  return (
    <PartClause
      parts={parts}
      part="removing"
      word="Removed"
      label="How records are removed"
      says={
        removing ? (
          <span className="mono">
            {removing.method} {removing.path.replace('{path}', path)}
          </span>
        ) : (
          'not at all'
        )
      }
    >
      <Choice
        label="Removed"
        value={removing?.method ?? ''}
        options={[
          { value: '', label: 'not at all' },
          { value: 'DELETE', label: 'by DELETE' },
          { value: 'PATCH', label: 'retired by PATCH' },
          { value: 'POST', label: 'retired by POST' },
        ]}
        onChange={(method) => set(method === '' ? undefined : { path: '{path}/{id}', ...removing, method })}
      />
      {removing && (
        <Text
          label="Path"
          mono
          value={removing.path}
          onChange={(to) => set({ ...removing, path: to })}
          description="{path} and {id} are filled in; {version} too, where it is part of the address."
        />
      )}
    </PartClause>
  );
}
