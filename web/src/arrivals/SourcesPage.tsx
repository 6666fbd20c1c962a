import { Button } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import type { FileSource, FileSourceView } from '@vast-knot/core';
import { sentenceOf } from '../api/client';
import { useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Empty, Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { tellWithUndo } from '../parts/toast';
import { Verdict } from '../parts/Verdict';
import { ArrivalTabs } from './ArrivalTabs';
import './arrivals.css';
import { newSource, SourceForm } from './SourceForm';
import { SourceSentence } from './SourceSentence';
import { saidOf, useSourceDeeds, useSources } from './useSources';

/** Where files come from by themselves: each in a sentence, with how the last look went. */
export function SourcesPage() {
  const [looking, setLooking] = useState<{ readonly id: string; readonly since: string | null }>();
  const sources = useSources(looking !== undefined);
  const systems = useSystems().data ?? [];
  const mayChange = useMay('systems.change');
  const [making, setMaking] = useState(false);
  const all = sources.data?.sources ?? [];
  // Whatever became of the look, its time tells that it is over.
  if (looking && all.some(({ id, lookedAt }) => id === looking.id && lookedAt !== looking.since))
    setLooking(undefined);
  const inlets = systems.filter(({ reached }) => reached === 'inlet');
  const folders = sources.data?.folders ?? [];
  return (
    <article className="page wide" aria-label="Where files come from">
      <div className="page-head">
        <h1>Arrivals</h1>
        <ArrivalTabs />
        <span className="end">
          {mayChange && (
            <Button color="ember" aria-expanded={making} onClick={() => setMaking(!making)}>
              Say where else
            </Button>
          )}
        </span>
      </div>
      <p className="dim">
        Files that come by themselves: fetched from an address at certain times, or taken from a folder of the
        server as they come to lie there.
      </p>
      {making && (
        <SourceForm
          start={newSource(inlets, folders)}
          inlets={inlets}
          folders={folders}
          hasSecret={false}
          leave={() => setMaking(false)}
        />
      )}
      {sources.isPending && <Loading />}
      {sources.isError && <Failure error={sources.error} again={() => void sources.refetch()} />}
      {sources.data && all.length === 0 && !making && (
        <Empty title="Nothing comes by itself yet">
          {mayChange
            ? 'Say from where with the button above.'
            : 'Whoever may change systems can say from where.'}
        </Empty>
      )}
      {all.map((source) => (
        <OneSource
          key={source.id}
          source={source}
          inlets={inlets}
          folders={folders}
          looking={looking?.id === source.id}
          look={() => setLooking({ id: source.id, since: source.lookedAt })}
        />
      ))}
    </article>
  );
}

interface OneSourceProps {
  readonly source: FileSourceView;
  readonly inlets: Parameters<typeof newSource>[0];
  readonly folders: readonly string[];
  readonly looking: boolean;
  readonly look: () => void;
}

function OneSource({ source, inlets, folders, looking, look }: OneSourceProps) {
  const [editing, setEditing] = useState(false);
  const deeds = useSourceDeeds();
  const mayChange = useMay('systems.change');
  const maySend = useMay('files.send');
  const { id, name, lookedAt, problem, missingSince, last } = source;
  const takeOut = () =>
    deeds.takeOut.mutate(id, {
      onSuccess: () =>
        tellWithUndo({
          text: `“${name}” is taken out${source.hasSecret ? '; its secret with it' : ''}.`,
          undo: () => deeds.add.mutate(saidOf(source) satisfies FileSource),
        }),
    });
  const failure = deeds.takeOut.error ?? deeds.look.error;
  return (
    <section className="file-source" aria-label={name}>
      <div className="page-head">
        <h2>{name}</h2>
        {missingSince !== null && (
          <Verdict tone="wrong">missing: expected by {shortTime(missingSince)}</Verdict>
        )}
        <span className="end side-by-side">
          {maySend && (
            <Button
              variant="default"
              size="compact-sm"
              loading={deeds.look.isPending || looking}
              onClick={() => deeds.look.mutate(id, { onSuccess: look })}
            >
              Look now
            </Button>
          )}
          {mayChange && (
            <>
              <Button
                variant="subtle"
                size="compact-sm"
                aria-expanded={editing}
                onClick={() => setEditing(!editing)}
              >
                Change
              </Button>
              <Button variant="subtle" color="rust" size="compact-sm" onClick={takeOut}>
                Take out
              </Button>
            </>
          )}
        </span>
      </div>
      <p className="flush">
        <SourceSentence source={source} inlets={inlets} />
      </p>
      <p className="flush small">
        {lookedAt === null ? (
          <span className="dim">It was not looked at yet.</span>
        ) : (
          <>
            <span className="dim">Looked at </span>
            <span className="mono">{shortTime(lookedAt)}</span>
            {problem === null ? (
              <span className="dim">. </span>
            ) : (
              <span className="value wrong">: {problem} </span>
            )}
          </>
        )}
        {last && (
          <>
            The last file was <Link to={`/arrivals/${last.id}`}>{last.name}</Link>, which came{' '}
            <span className="mono">{shortTime(last.cameAt)}</span>.
          </>
        )}
      </p>
      {failure && (
        <p className="flush value wrong" role="alert">
          {sentenceOf(failure)}
        </p>
      )}
      {editing && (
        <SourceForm
          start={saidOf(source)}
          existing={source}
          inlets={inlets}
          folders={folders}
          hasSecret={source.hasSecret}
          leave={() => setEditing(false)}
        />
      )}
    </section>
  );
}
