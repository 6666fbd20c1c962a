import { Spotlight } from '@mantine/spotlight';
import { useDebouncedValue } from '@mantine/hooks';
import { IconSearch } from '@tabler/icons-react';
import {
  useDeferredValue,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type RefObject,
} from 'react';
import { useNavigate } from 'react-router';
import { isJsonObject, refKey, scalarText, type ValuePlace } from '@vast-knot/core';
import { useKnown, useRules, useSamples, useSightings, useSystems, useTables } from '../api/queries';
import { useRights } from '../frame/useMay';
import { entriesOf, found } from './entries';
import { finderStore } from './finder';
import './palette.css';
import { SystemTag } from '../parts/SystemTag';
import { noteRecent, readRecent, type Recent } from './recent';

/** How long somebody must type nothing before records are looked for. */
const settledMs = 150;

/** It opens from wherever one is, also out of a field. */
const fromAnywhere: string[] = [];

/** One field that finds anything: what is ours as one types, and records and values as they were last seen. */
export function Palette() {
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const shownForRef = useRef('');
  const opensRef = useRef(false);
  return (
    <Spotlight.Root
      store={finderStore}
      query={text}
      onQueryChange={setText}
      onSpotlightOpen={() => setOpen(true)}
      onSpotlightClose={() => setOpen(false)}
      shortcut="mod + K"
      tagsToIgnore={fromAnywhere}
      triggerOnContentEditable
      scrollable
      maxHeight="min(560px, 70vh)"
      size={680}
      transitionProps={{ duration: 0 }}
      overlayProps={{ blur: 0, backgroundOpacity: 0.35 }}
    >
      <Spotlight.Search
        aria-label="Find anything"
        placeholder="A rule, a field, a table, a record, a value, a command …"
        leftSection={<IconSearch size={16} />}
        onKeyDown={(pressed) => openFirst(pressed, { text, shownForRef, opensRef })}
      />
      <Spotlight.ActionsList className="found-list">
        {open && <Found text={text} shownForRef={shownForRef} opensRef={opensRef} />}
      </Spotlight.ActionsList>
      <Spotlight.Footer className="small dim">↑ ↓ to choose, Enter to open, Esc to leave</Spotlight.Footer>
    </Spotlight.Root>
  );
}

interface Showing {
  /** What the list shows the finds for: a moment behind what is typed. */
  readonly shownForRef: RefObject<string>;
  /** Enter was pressed before the list showed what is typed; it opens the first as soon as it does. */
  readonly opensRef: RefObject<boolean>;
}

/** Enter opens what stands first for the text as it is typed, as long as nothing else is chosen. */
function openFirst(
  { key }: KeyboardEvent,
  { text, shownForRef, opensRef }: Showing & { readonly text: string },
): void {
  if (key !== 'Enter') return;
  if (shownForRef.current !== text) {
    // What is chosen in a list for another text is not what was meant.
    chosen()?.removeAttribute('data-selected');
    opensRef.current = true;
  } else if (!chosen()) first()?.click();
}

const chosen = () => document.querySelector('.found-list [data-selected]');
/** Chooses what stands first. */
function chooseFirst(): void {
  chosen()?.removeAttribute('data-selected');
  first()?.setAttribute('data-selected', 'true');
  finderStore.updateState((state) => ({ ...state, selected: 0 }));
}

const first = () => document.querySelector<HTMLElement>('.found-list [data-action]');

function Found({ text, shownForRef, opensRef }: Showing & { readonly text: string }) {
  const rights = useRights();
  const rules = useRules().data;
  const systems = useSystems().data;
  const tables = useTables().data;
  const samples = useSamples().data;
  const { known } = useKnown();
  const navigate = useNavigate();
  const [recent] = useState(readRecent);
  const entries = useMemo(
    () =>
      entriesOf({
        rules: rules ?? [],
        systems: systems ?? [],
        tables: tables ?? [],
        wholeTables: known?.tables ?? [],
        samples: samples ?? [],
        may: (right) => rights.has(right),
      }),
    [rules, systems, tables, known, samples, rights],
  );
  // What is typed stands at once; what is found may follow a moment later.
  const wanted = useDeferredValue(text);
  const kinds = useMemo(() => found(entries, wanted), [entries, wanted]);
  useEffect(() => {
    shownForRef.current = wanted;
    // Others came to stand first: the one that was chosen before them was so only because it stood there.
    chooseFirst();
    if (!opensRef.current || wanted !== text) return;
    opensRef.current = false;
    first()?.click();
  }, [kinds, wanted, text, shownForRef, opensRef]);
  const go = (entry: Recent) => {
    noteRecent(entry);
    void navigate(entry.path);
  };
  if (text.trim() === '')
    return recent.length === 0 ? (
      <Spotlight.Empty>Type what you look for. What you open is offered here the next time.</Spotlight.Empty>
    ) : (
      <Kind label="Opened last" entries={recent} go={go} />
    );
  return (
    <>
      {kinds.map(({ kind, entries: of }) => (
        <Kind key={kind} label={kind} entries={of} go={go} />
      ))}
      <Records text={text} go={go} nothingElse={kinds.length === 0} />
    </>
  );
}

interface KindProps {
  readonly label: string;
  readonly entries: readonly Recent[];
  readonly go: (entry: Recent) => void;
}

function Kind({ label, entries, go }: KindProps) {
  return (
    <Spotlight.ActionsGroup label={label}>
      {entries.map((entry) => (
        <Spotlight.Action key={`${entry.path} ${entry.title} ${entry.more}`} onClick={() => go(entry)}>
          <span className="found-line">
            <span className="found-title">
              {entry.system !== undefined && <SystemTag system={entry.system} />} {entry.title}
            </span>
            <span className="small dim found-more">{entry.more}</span>
          </span>
        </Spotlight.Action>
      ))}
    </Spotlight.ActionsGroup>
  );
}

interface RecordsProps extends Pick<KindProps, 'go'> {
  readonly text: string;
  readonly nothingElse: boolean;
}

/** Records that hold the text, as they were last seen; and the way to look for it in the systems themselves. */
function Records({ text, nothingElse, go }: RecordsProps) {
  const [settled] = useDebouncedValue(text.trim(), settledMs);
  const systems = useSystems().data ?? [];
  const { data, isPending, isError } = useSightings(settled);
  const places = data?.places ?? [];
  const first = places.filter(
    ({ ref }, at) => places.findIndex((each) => refKey(each.ref) === refKey(ref)) === at,
  );
  const entries = first.slice(0, mostShown).map((place): Recent => {
    const { ref, name } = place;
    const type = systems
      .find(({ key }) => key === ref.system)
      ?.recordTypes.find((each) => each.name === ref.recordType);
    return {
      system: ref.system,
      title: name ?? ref.id,
      more: `${type?.label ?? ref.recordType} ${ref.id} · ${saidIn(place)}`,
      path: `/records?left=${encodeURIComponent(`${ref.system}/${ref.recordType}/${ref.id}`)}`,
    };
  });
  useEffect(() => {
    // Whoever went on to another line by keys stays there.
    if (data && finderStore.getState().selected <= 0) chooseFirst();
  }, [data]);
  const searches = settled.length >= 3;
  return (
    <>
      {entries.length > 0 && (
        <Kind label={data?.more ? 'Records, the first of them' : 'Records'} entries={entries} go={go} />
      )}
      {nothingElse && entries.length === 0 && (
        <Spotlight.Empty>
          {isError
            ? 'Records could not be looked for just now.'
            : searches && isPending
              ? 'Records are being looked for …'
              : 'Nothing is found under that.'}
        </Spotlight.Empty>
      )}
      {text.trim() !== '' && (
        <Kind
          label="In the systems themselves"
          entries={[
            {
              title: `Look for “${text.trim()}” in every system`,
              more: 'reads their records as they are now',
              path: `/values?text=${encodeURIComponent(text.trim())}`,
            },
          ]}
          go={go}
        />
      )}
    </>
  );
}

/** A record stands once, with the first of its fields that holds the text. */
const mostShown = 10;

const longest = 80;

function saidIn({ path, value }: ValuePlace): string {
  const text = Array.isArray(value)
    ? value.map(scalarText).join(', ')
    : isJsonObject(value)
      ? ''
      : scalarText(value);
  return `${path} ${text.length > longest ? `${text.slice(0, longest)} …` : text}`;
}
