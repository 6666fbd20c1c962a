import { ActionIcon, Select } from '@mantine/core';
import { IconChevronLeft, IconChevronRight } from '@tabler/icons-react';
import { memo } from 'react';
import { Link } from 'react-router';
import {
  noRecord,
  type RecordType,
  type RuleReport,
  type Sample,
  type SampleSummary,
  type Trigger,
} from '@vast-knot/core';
import { NoSample } from './NoSample';
import { useValueDrag } from './drag/useLineDrag';
import { Payload } from '../parts/Payload';
import { SystemTag } from '../parts/SystemTag';
import { Verdict } from '../parts/Verdict';

interface SamplePaneProps {
  readonly rule: string;
  readonly trigger: Trigger;
  readonly samples: readonly SampleSummary[];
  readonly sample: Sample | undefined;
  readonly type: RecordType | undefined;
  /** What the rule as edited does with the sample. */
  readonly report: RuleReport | undefined;
  /** Why there is no report. */
  readonly unanswered: string;
  readonly choose: (id: string) => void;
  readonly step: (by: 1 | -1) => void;
  readonly onUse: (path: string) => void;
}

/** The present sample beside the sheet: its payload, and what the rule would do with it. */
export const SamplePane = memo(function SamplePane(props: SamplePaneProps) {
  const { rule, trigger, samples, sample, type, report, unanswered, choose, step, onUse } = props;
  return (
    <aside aria-label="Sample" className="sample-pane">
      <h2>Sample</h2>
      {!sample ? (
        <NoSample rule={rule} trigger={trigger} type={type} choose={choose} />
      ) : (
        <>
          <div className="side-by-side">
            <ActionIcon
              variant="default"
              size="md"
              aria-label="Previous sample (Alt+,)"
              disabled={samples.length < 2}
              onClick={() => step(-1)}
            >
              <IconChevronLeft size={14} />
            </ActionIcon>
            <Select
              aria-label="Present sample"
              data={samples.map(({ id, name }) => ({ value: id, label: name }))}
              value={sample.id}
              onChange={(id) => id !== null && choose(id)}
              className="grows"
            />
            <ActionIcon
              variant="default"
              size="md"
              aria-label="Next sample (Alt+.)"
              disabled={samples.length < 2}
              onClick={() => step(1)}
            >
              <IconChevronRight size={14} />
            </ActionIcon>
          </div>
          {report ? (
            <RuleAnswer report={report} sample={sample.id} />
          ) : (
            <div className="note answer-place dim">{unanswered}</div>
          )}
          {sample.event.ref.id === noRecord ? (
            <p className="small dim over-payload">
              It starts from no record: formulas read what its finds reach
              {(trigger.inputs ?? []).length > 0 && ', and what is asked of the person as input.…'}.
            </p>
          ) : (
            <>
              <p className="small dim over-payload">
                <SystemTag system={sample.event.ref.system} /> {type?.label}{' '}
                <span className="mono">{sample.event.ref.id}</span> {sample.event.kind}. Press a name to use
                it in the formula at hand, or drag it onto a field.
              </p>
              <div className="boxed payload-box">
                <Payload
                  type={type}
                  event={sample.event}
                  nameOf={(path, shown = path) => <UsableName path={path} shown={shown} onUse={onUse} />}
                />
              </div>
            </>
          )}
        </>
      )}
    </aside>
  );
});

interface UsableNameProps {
  readonly path: string;
  /** What of the path is shown: within a list, the last of it. */
  readonly shown: string;
  readonly onUse: (path: string) => void;
}

/** A name of the payload: pressed, it goes into the formula at hand; dragged, onto a target field. */
function UsableName({ path, shown, onUse }: UsableNameProps) {
  const { listeners, setNodeRef } = useValueDrag(path);
  return (
    <button
      type="button"
      className="use mono"
      ref={setNodeRef}
      {...listeners}
      onMouseDown={(pressed) => pressed.preventDefault()}
      onClick={() => onUse(path)}
      aria-label={`Use ${path}`}
    >
      {shown}
    </button>
  );
}

function RuleAnswer({ report, sample }: { readonly report: RuleReport; readonly sample: string }) {
  const tone =
    report.verdict === 'writes'
      ? 'will'
      : report.verdict === 'failed'
        ? 'wrong'
        : report.verdict === 'nothing to write'
          ? 'settled'
          : 'quiet';
  return (
    <div className={`note ${tone === 'quiet' ? '' : tone}`} role="status">
      <Verdict tone={tone}>
        {tone === 'quiet'
          ? 'writes nothing'
          : tone === 'wrong'
            ? 'fails'
            : tone === 'settled'
              ? 'nothing to change'
              : 'would write'}
      </Verdict>
      <div>{report.because}</div>
      <Link to={`/bench/${sample}?against=drafts`} className="small">
        See the records on the bench
      </Link>
    </div>
  );
}
