import { Button, SegmentedControl } from '@mantine/core';
import type { Finding, ImportItemView, ImportPlan, ItemState, Taken } from '@vast-knot/core';
import { count } from '../parts/time';
import { useGrowing } from '../parts/useGrowing';
import { Verdict, type VerdictTone } from '../parts/Verdict';

interface ImportItemsProps {
  readonly plan: ImportPlan;
  readonly choose: (items: readonly ImportItemView[], taken: Taken) => void;
}

/** The order in which they are read: what somebody has to decide stands first. */
const states: readonly (readonly [ItemState, string, VerdictTone])[] = [
  ['changed in both', 'Changed here and there', 'wrong'],
  ['changed there', 'Changed there', 'will'],
  ['new', 'New here', 'will'],
  ['changed here', 'Changed here', 'quiet'],
  ['same', 'The same', 'settled'],
];

const kindWords = { table: 'table', rule: 'rule', sample: 'sample' } as const;

/** Everything that comes, by what became of it, with what it would change and what there is to say of it here. */
export function ImportItems({ plan, choose }: ImportItemsProps) {
  return (
    <div>
      {states.map(([state, words, tone]) => {
        const items = plan.items.filter((item) => item.state === state);
        if (items.length === 0) return null;
        return (
          <section key={state} aria-label={words}>
            <div className="import-group">
              <h3>
                <Verdict tone={tone}>{words}</Verdict> <span className="dim">{items.length}</span>
              </h3>
              {state !== 'same' && items.length > 1 && (
                <span className="end">
                  <Button variant="subtle" size="compact-sm" onClick={() => choose(items, 'theirs')}>
                    Take all over
                  </Button>
                  <Button variant="subtle" size="compact-sm" onClick={() => choose(items, 'ours')}>
                    {state === 'new' ? 'Leave all out' : 'Keep all of ours'}
                  </Button>
                </span>
              )}
            </div>
            {state === 'same' ? (
              <details>
                <summary>{count(items.length, 'thing')} that nothing is done with</summary>
                <Items items={items} plan={plan} choose={choose} />
              </details>
            ) : (
              <Items items={items} plan={plan} choose={choose} />
            )}
          </section>
        );
      })}
    </div>
  );
}

function Items({ items, plan, choose }: ImportItemsProps & { readonly items: readonly ImportItemView[] }) {
  const { shown, end } = useGrowing(items.length);
  return (
    <>
      <table className="grid boxed import-items">
        <thead>
          <tr>
            <th>What</th>
            <th>Here</th>
            <th>What is done</th>
          </tr>
        </thead>
        {items.slice(0, shown).map((item) => (
          <Item key={`${item.kind} ${item.key}`} item={item} plan={plan} choose={choose} />
        ))}
      </table>
      <div ref={end} />
    </>
  );
}

function Item({ item, plan, choose }: ImportItemsProps & { readonly item: ImportItemView }) {
  const { kind, key, name, state, taken, changes, more, runs } = item;
  const findings = plan.findings.find(({ rule }) => kind === 'rule' && rule === key)?.findings ?? [];
  const sample = plan.samples.find(({ id }) => kind === 'sample' && id === key);
  const differences = sample?.differences ?? [];
  const told = [
    changes.length > 0 && count(changes.length + more, 'difference'),
    findings.length > 0 && count(findings.length, 'finding'),
    differences.length > 0 && `${count(differences.length, 'value')} not as expected`,
  ].filter((words) => words !== false);
  return (
    <tbody>
      <tr>
        <td>
          <span className="dim">{kindWords[kind]}</span> {name}
        </td>
        <td>
          <Errors findings={findings} />
          {sample && <Verdict tone={verdictTones[sample.verdict]}>{sample.verdict}</Verdict>}
          {kind === 'rule' && <Verdict tone={runs ? 'settled' : 'quiet'}>{runs ? 'runs' : 'draft'}</Verdict>}
        </td>
        <td>
          {state === 'same' ? (
            <span className="dim">nothing</span>
          ) : (
            <SegmentedControl
              aria-label={`What is done with ${name}`}
              data={[
                { value: 'theirs', label: 'Take over' },
                { value: 'ours', label: state === 'new' ? 'Leave out' : 'Keep ours' },
              ]}
              value={taken ?? ''}
              onChange={(next) => choose([item], next === 'theirs' ? 'theirs' : 'ours')}
            />
          )}
        </td>
      </tr>
      {told.length > 0 && (
        <tr className="more">
          <td colSpan={3}>
            <details>
              <summary>{told.join(', ')}</summary>
              {changes.length > 0 && <Changes changes={changes} more={more} />}
              {findings.map(({ at, message, severity }, index) => (
                <p key={index} className="flush">
                  {severity === 'error' ? <Verdict tone="wrong">{message}</Verdict> : message}{' '}
                  {at !== '' && <code className="dim">{at}</code>}
                </p>
              ))}
              {differences.map((line) => (
                <p key={line} className="flush value">
                  {line}
                </p>
              ))}
            </details>
          </td>
        </tr>
      )}
    </tbody>
  );
}

const verdictTones = { holds: 'settled', differs: 'wrong', 'nothing expected': 'quiet' } as const;

function Errors({ findings }: { readonly findings: readonly Finding[] }) {
  const errors = findings.filter(({ severity }) => severity === 'error').length;
  return errors > 0 ? <Verdict tone="wrong">{count(errors, 'error')}</Verdict> : null;
}

function Changes({ changes, more }: Pick<ImportItemView, 'changes' | 'more'>) {
  return (
    <>
      <table className="import-changes">
        <thead>
          <tr>
            <th>Where</th>
            <th>Here</th>
            <th>What comes</th>
          </tr>
        </thead>
        <tbody>
          {changes.map(({ at, before, after }, index) => (
            <tr key={index}>
              <td>{at}</td>
              <td className="value">{before ?? <span className="dim">nothing</span>}</td>
              <td className="value">{after ?? <span className="dim">nothing</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {more > 0 && <p className="small dim">and {more} more</p>}
    </>
  );
}
