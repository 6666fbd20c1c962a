import { Menu, Button } from '@mantine/core';
import { taggedStepText, type LineReport, type TidyAction, type TidyStep } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { newTaggedSteps } from '../../parts/newTaggedSteps';
import { SystemTag } from '../../parts/SystemTag';
import { ActionTitle } from './ActionTitle';
import type { ClauseProps } from './clauseProps';
import { OnlyWhen } from './OnlyWhen';
import { TargetChoice } from './TargetChoice';
import { TidyStepRow } from './TidyStepRow';
import { useSetAction } from './useSetAction';

const noReports: readonly LineReport[] = [];

/** “then put in order the fields of the job itself”: step after step, with before and after for the present sample. */
export function TidyClause({ at, action, body, system, type, steps }: ClauseProps<TidyAction>) {
  const setAction = useSetAction(at, 'tidy');
  const mayChange = useMay('rules.edit');
  const written = steps.find((step) => step.kind === 'write');
  const reports = written?.lines ?? noReports;
  const setSteps = (change: (steps: readonly TidyStep[]) => readonly TidyStep[], part?: string) =>
    setAction((known) => ({ ...known, steps: change(known.steps) }), part);
  const field =
    type.fields.find(({ type: kind, readOnly }) => kind === 'text' && !readOnly)?.name ?? type.nameField;
  const add = (step: TidyStep) => setSteps((known) => [...known, step]);
  return (
    <>
      <span className="ledger-title">
        <ActionTitle at={at} count={body.actions.length}>
          put in order the fields of <SystemTag system={system} />
          <TargetChoice
            body={body}
            action={action}
            label="Record that is put in order"
            onChange={(target) => setAction((known) => ({ ...known, target }))}
          />
        </ActionTitle>
        <OnlyWhen at={at} only={action.only ?? ''} />
      </span>
      <table className="grid boxed" aria-label="Tidy steps">
        <thead>
          <tr>
            <th className="of52">Step</th>
            <th>This sample: before</th>
            <th>after</th>
            <th className="w80" />
          </tr>
        </thead>
        <tbody>
          {action.steps.map((step, index) => (
            <TidyStepRow
              key={index}
              place={`actions/${at}/steps/${index}`}
              step={step}
              type={type}
              done={written !== undefined}
              reports={reports.filter((report) => belongs(report, step))}
              set={(next) => setSteps((known) => known.with(index, next), `step ${at}/${index}`)}
              remove={() => setSteps((known) => known.filter((_step, each) => each !== index))}
            />
          ))}
        </tbody>
      </table>
      {action.steps.length === 0 && <p className="dim">No step yet: add what is to be put in order.</p>}
      {mayChange && (
        <Menu position="bottom-start">
          <Menu.Target>
            <Button variant="subtle" size="compact-xs">
              Add a step
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => add({ do: 'remove fields', pattern: 'old_*' })}>
              Remove fields by a pattern of their names
            </Menu.Item>
            <Menu.Item onClick={() => add({ do: 'set when absent', field, formula: '' })}>
              Set a field when it holds nothing
            </Menu.Item>
            <Menu.Item onClick={() => add({ do: 'set characters', field, position: 1, formula: '' })}>
              Replace characters of a code
            </Menu.Item>
            <Menu.Item onClick={() => add({ do: 'clean', field, how: 'trim' })}>
              Trim or change the letters of a text
            </Menu.Item>
            <Menu.Divider />
            <Menu.Label>Of a tagged record that a text field holds</Menu.Label>
            {newTaggedSteps.map(({ label, step }) => (
              <Menu.Item key={label} onClick={() => add({ do: 'tidy tagged', field, step })}>
                {label}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </Menu>
      )}
    </>
  );
}

/** Returns whether a report tells what a step did; removals name their pattern as the formula. */
function belongs(report: LineReport, step: TidyStep): boolean {
  switch (step.do) {
    case 'remove fields':
      return report.formula === `remove ${step.pattern}`;
    case 'clean':
      return report.field === step.field && report.formula === step.how;
    case 'tidy tagged':
      return report.field === step.field && report.formula === taggedStepText(step.step);
    default:
      return report.field === step.field && report.formula === step.formula;
  }
}
