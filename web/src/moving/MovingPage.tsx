import { Button, Checkbox, Select } from '@mantine/core';
import { useState } from 'react';
import { useRules } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { DoneImports } from './DoneImports';
import { exportBundle } from './exportBundle';
import { ImportPart } from './ImportPart';
import './moving.css';

/** Work that goes to another environment, and work that comes from one. */
export function MovingPage() {
  const mayImport = useMay('rules.edit');
  return (
    <article className="page" aria-label="Moving work">
      <div className="page-head">
        <h1>Moving work</h1>
        <span className="dim">
          rules with all that they need, between environments; secrets never go along
        </span>
      </div>
      <ExportPart />
      {mayImport && <ImportPart />}
      <DoneImports mayUndo={mayImport} />
    </article>
  );
}

const everything = ' ';

function ExportPart() {
  const rules = useRules().data ?? [];
  const [folder, setFolder] = useState(everything);
  const [samples, setSamples] = useState(true);
  const folders = [...new Set(rules.map((rule) => rule.folder))].filter((each) => each !== '').sort();
  const chosen = rules.filter((rule) => folder === everything || rule.folder === folder);
  const give = (form: 'file' | 'archive') =>
    void exportBundle({ ...(folder !== everything && { folder }), form, samples });
  return (
    <section aria-label="Give work" className="moving-part">
      <h2>Give</h2>
      <p className="flush dim">
        Tables, systems, samples and the names of outside addresses that the rules need come along. Single
        rules are chosen in the list of rules.
      </p>
      <div className="field-tools">
        <Select
          aria-label="Which rules"
          data={[
            { value: everything, label: 'All rules' },
            ...folders.map((each) => ({ value: each, label: `The folder ${each}` })),
          ]}
          value={folder}
          onChange={(next) => next !== null && setFolder(next)}
          allowDeselect={false}
          w={220}
        />
        <Checkbox
          label="with their samples"
          checked={samples}
          onChange={({ currentTarget }) => setSamples(currentTarget.checked)}
        />
        <Button variant="default" onClick={() => give('file')} disabled={chosen.length === 0}>
          One file
        </Button>
        <Button variant="default" onClick={() => give('archive')} disabled={chosen.length === 0}>
          An archive, a file for each thing
        </Button>
        <span className="dim">{count(chosen.length, 'rule')}</span>
      </div>
    </section>
  );
}
