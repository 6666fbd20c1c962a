import { Button, FileButton, Radio } from '@mantine/core';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ImportAsked, ImportPlan } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { tellTrouble, tellWithUndo } from '../parts/toast';
import { Verdict } from '../parts/Verdict';
import { ImportItems } from './ImportItems';
import { readFiles } from './readFiles';
import type { Said } from './said';
import { Slots } from './Slots';
import { useUndoImport } from './useUndoImport';

type Files = ImportAsked['files'];

/** Files as they were chosen at a moment, by which they are known: they may be large. */
interface Chosen {
  readonly at: number;
  readonly files: Files;
}

const nothingSaid: Said = { systems: {}, addresses: {}, take: {}, known: {}, running: false };

/** Files from another environment, what they would do here, and doing it. */
export function ImportPart() {
  const [chosen, setChosen] = useState<Chosen>();
  const [said, setSaid] = useState(nothingSaid);
  const files = chosen?.files;
  const choose = async (all: readonly File[]) => {
    try {
      setChosen({ at: Date.now(), files: await readFiles(all) });
      setSaid(nothingSaid);
    } catch (thrown) {
      tellTrouble(sentenceOf(thrown));
    }
  };
  return (
    <section aria-label="Take work in" className="moving-part">
      <h2>Take in</h2>
      <div className="field-tools">
        <FileButton multiple accept=".json,.zip" onChange={(all) => void (all.length > 0 && choose(all))}>
          {(props) => (
            <Button {...props} variant={files ? 'default' : 'filled'}>
              Choose files
            </Button>
          )}
        </FileButton>
        {files ? (
          <>
            <span>
              {files
                .slice(0, 3)
                .map(({ name }) => name)
                .join(', ')}
              {files.length > 3 && ` and ${files.length - 3} more`}
            </span>
            <Button variant="subtle" onClick={() => setChosen(undefined)}>
              Leave it
            </Button>
          </>
        ) : (
          <span className="dim">
            JSON, or an archive of it. What they would do here is shown before anything is changed.
          </span>
        )}
      </div>
      {chosen && <Planned chosen={chosen} said={said} say={setSaid} done={() => setChosen(undefined)} />}
    </section>
  );
}

interface PlannedProps {
  readonly chosen: Chosen;
  readonly said: Said;
  readonly say: (said: Said) => void;
  readonly done: () => void;
}

function Planned({ chosen: { at, files }, said, say, done }: PlannedProps) {
  const plan = useQuery({
    queryKey: keys.importPlan({ at, said }),
    queryFn: () => ask<ImportPlan>('/imports/plan', { method: 'POST', body: { files, ...said } }),
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 0,
  });
  const client = useQueryClient();
  const undo = useUndoImport();
  const take = useMutation({
    mutationFn: (stamp: string) =>
      ask<{ id: string; asked: readonly string[] }>('/imports', {
        method: 'POST',
        body: { files, ...said, stamp },
      }),
    onSuccess: ({ id, asked }) => {
      done();
      void client.invalidateQueries();
      const waits =
        asked.length === 0
          ? ''
          : ` ${count(asked.length, 'rule')} ${asked.length === 1 ? 'waits' : 'wait'} for a second person to be published.`;
      tellWithUndo({ text: `It is taken in.${waits}`, undo: () => undo.mutate(id) });
    },
    // Somebody changed something meanwhile: how it is by now is shown.
    onError: () => void plan.refetch(),
  });
  if (plan.isError) return <Failure error={plan.error} again={() => void plan.refetch()} />;
  if (!plan.data) return <Loading />;
  const { upgraded, slots, items, problems, stamp } = plan.data;
  const takes = items.filter(({ taken }) => taken === 'theirs').length;
  return (
    <div className="import-plan">
      <div>
        {upgraded.map(({ file, changes }) => (
          <p key={file} className="note flush">
            <strong>{file}</strong> {changes.join(' ')}
          </p>
        ))}
        <Slots slots={slots} said={said} say={say} />
        <Arriving said={said} say={say} />
        <ul className="plain-list" aria-label="What is in its way">
          {problems.map((problem) => (
            <li key={problem}>
              <Verdict tone="wrong">{problem}</Verdict>
            </li>
          ))}
        </ul>
        {take.isError && <Failure error={take.error} />}
        <Button
          loading={take.isPending}
          disabled={problems.length > 0 || plan.isFetching}
          onClick={() => take.mutate(stamp)}
        >
          {takes === 0 ? 'Take nothing over' : `Take ${takes} over`}
        </Button>
        <p className="small dim">All of it is done, or nothing, and it can be taken back as one.</p>
      </div>
      <ImportItems
        plan={plan.data}
        choose={(chosen, taken) => {
          const choices = chosen.map(({ kind, key }) => [`${kind} ${key}`, taken]);
          say({ ...said, take: { ...said.take, ...Object.fromEntries(choices) } });
        }}
      />
    </div>
  );
}

function Arriving({ said, say }: { readonly said: Said; readonly say: (said: Said) => void }) {
  const mayPublish = useMay('rules.publish');
  return (
    <Radio.Group
      label="Rules arrive"
      value={said.running ? 'running' : 'drafts'}
      onChange={(next) => say({ ...said, running: next === 'running' })}
    >
      <Radio mt={6} value="drafts" label="as drafts; what runs here goes on as it is" />
      <Radio
        mt={6}
        value="running"
        disabled={!mayPublish}
        label="running, where they run where they come from"
      />
    </Radio.Group>
  );
}
