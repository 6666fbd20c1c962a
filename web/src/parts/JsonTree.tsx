import { IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { memo, useState, type ReactNode } from 'react';
import { isJsonObject, isLongNumber, scalarText, type Json } from '@vast-knot/core';

/** Elements of a list, and members of an object, that are shown before one asks for more. */
const shownAtFirst = 25;
/** So deep a tree is open from the start. */
const openDepth = 3;
const longestText = 300;

interface TreeProps {
  readonly json: Json;
  /** What is said of places, by JSON Pointer. */
  readonly marks?: ReadonlyMap<string, string>;
  /** Called with the place that was pressed; without it nothing can be pressed. */
  readonly press?: ((pointer: string) => void) | undefined;
  /** The place that was pressed last, with what stands below it then. */
  readonly at?: string | undefined;
  readonly below?: ReactNode;
}

/** JSON as a tree whose places can be pressed, with marks at those that something points at. */
export function JsonTree({ json, ...tree }: TreeProps) {
  return (
    <div className="json-tree" role="tree" aria-label="The answer as a tree">
      <Node {...tree} name={undefined} json={json} pointer="" depth={0} />
    </div>
  );
}

interface NodeProps extends Omit<TreeProps, 'json'> {
  readonly name: string | undefined;
  readonly json: Json;
  readonly pointer: string;
  readonly depth: number;
}

const Node = memo(function Node(props: NodeProps) {
  const { name, json, pointer, depth, marks, press, at, below } = props;
  const isMarkedWithin = [...(marks?.keys() ?? [])].some((mark) => mark.startsWith(`${pointer}/`));
  // Of a list the first element shows what the others are like.
  const isFurther = name !== undefined && /^[1-9]\d*$/.test(name);
  const [open, setOpen] = useState((depth < openDepth && !isFurther) || isMarkedWithin);
  const [shown, setShown] = useState(shownAtFirst);
  const members = membersOf(json);
  const mark = marks?.get(pointer);
  const label = name ?? 'the answer';
  return (
    <div
      role="treeitem"
      aria-expanded={members ? open : undefined}
      aria-selected={at === pointer}
      className="json-node"
    >
      <div className={`json-line ${mark === undefined ? '' : 'marked'} ${at === pointer ? 'at' : ''}`}>
        {members && members.length > 0 ? (
          <button
            type="button"
            className="json-open"
            aria-label={`${open ? 'Close' : 'Open'} ${label}`}
            onClick={() => setOpen(!open)}
          >
            {open ? <IconChevronDown size={13} aria-hidden /> : <IconChevronRight size={13} aria-hidden />}
          </button>
        ) : (
          <span className="json-open" />
        )}
        {press ? (
          <button
            type="button"
            className="json-name mono"
            onClick={() => press(pointer)}
            title={pointer === '' ? 'the whole answer' : pointer}
          >
            {label}
          </button>
        ) : (
          <span className="json-name mono">{label}</span>
        )}
        <span className="json-value mono">{summaryOf(json)}</span>
        {mark !== undefined && <span className="json-mark">{mark}</span>}
      </div>
      {at === pointer && below}
      {open && members && (
        <div role="group" className="json-inner">
          {members.slice(0, shown).map(([key, value]) => (
            <Node
              {...props}
              key={key}
              name={key}
              json={value}
              pointer={`${pointer}/${escaped(key)}`}
              depth={depth + 1}
            />
          ))}
          {members.length > shown && (
            <button type="button" className="json-more" onClick={() => setShown(shown * 4)}>
              {members.length - shown} more
            </button>
          )}
        </div>
      )}
    </div>
  );
});

function membersOf(json: Json): readonly (readonly [string, Json])[] | undefined {
  if (Array.isArray(json)) return json.map((each, at) => [String(at), each] as const);
  if (!isJsonObject(json) || isLongNumber(json)) return undefined;
  return Object.entries(json).map(([key, value]) => [key, value ?? null] as const);
}

function summaryOf(json: Json): string {
  if (Array.isArray(json)) return `${json.length} ${json.length === 1 ? 'element' : 'elements'}`;
  if (isLongNumber(json)) return scalarText(json);
  if (isJsonObject(json)) {
    const count = Object.keys(json).length;
    return `${count} ${count === 1 ? 'member' : 'members'}`;
  }
  const text = typeof json === 'string' ? JSON.stringify(json) : String(json);
  return text.length > longestText ? `${text.slice(0, longestText)}…` : text;
}

function escaped(name: string): string {
  return name.replaceAll('~', '~0').replaceAll('/', '~1');
}
