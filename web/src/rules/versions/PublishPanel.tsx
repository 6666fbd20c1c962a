import { useQuery } from '@tanstack/react-query';
import type { RuleBody, RuleView } from '@vast-knot/core';
import { sessionQuery, usePauses, useWaits } from '../../api/queries';
import { SentenceForm } from '../../parts/SentenceForm';
import { count } from '../../parts/time';
import { Differences } from './Differences';
import { useVerdicts } from './useVerdicts';
import { VerdictChanges } from './VerdictChanges';

interface PublishPanelProps {
  readonly rule: RuleView;
  /** The draft as it stands; the same object while it does. */
  readonly body: RuleBody;
  readonly publishing: boolean;
  readonly publish: (note: string) => void;
  readonly close: () => void;
}

/** What publishing changes, what the samples say of it, and what it is for. */
export function PublishPanel({ rule, body, publishing, publish, close }: PublishPanelProps) {
  const { published, asked } = rule;
  const session = useQuery(sessionQuery).data;
  const needsAnother = session?.environment.secondPerson === true && (!asked || asked.by === session.name);
  const verdicts = useVerdicts({ rule, one: published?.body, other: body });
  return (
    <div className="publish-panel">
      <SentenceForm
        label="Publish the draft"
        question="What is it for? (it is kept with the version)"
        verb={needsAnother ? 'Ask for it' : 'Publish it'}
        busy={publishing}
        done={publish}
        leave={close}
      >
        {needsAnother && <p className="flush">Somebody else who may publish agrees before it runs.</p>}
        {published ? (
          <div className="differences-scroll">
            <Differences
              before={published.body}
              after={body}
              names={[`version ${published.version}, which runs`, 'the draft']}
            />
          </div>
        ) : (
          <p className="flush">It does not run yet; from now on it would.</p>
        )}
        <VerdictChanges
          verdicts={verdicts}
          names={[published ? `version ${published.version}` : 'the rules that run', 'the draft']}
        />
      </SentenceForm>
    </div>
  );
}

interface StopPanelProps {
  readonly rule: RuleView;
  readonly stopping: boolean;
  readonly stop: (why: string) => void;
  readonly close: () => void;
}

/** Why a rule is to run no longer, and what waits for it. */
export function StopPanel({ rule, stopping, stop, close }: StopPanelProps) {
  const held = usePauses().data?.rules.find(({ id }) => id === rule.id)?.held ?? 0;
  const waiting = useWaits().data?.filter((each) => each.rule.id === rule.id).length ?? 0;
  return (
    <div className="publish-panel">
      <SentenceForm
        label="Stop the rule"
        question="Why? (it is kept with the rule)"
        verb="Stop it"
        busy={stopping}
        done={stop}
        leave={close}
      >
        <p className="flush">{whatWaits(held, waiting)}</p>
      </SentenceForm>
    </div>
  );
}

function whatWaits(held: number, waiting: number): string {
  const parts = [
    ...(held > 0 ? [`${count(held, 'change waits', 'changes wait')} for it, since it is paused`] : []),
    ...(waiting > 0
      ? [`${count(waiting, 'record waits', 'records wait')} for further changes before it runs on them`]
      : []),
  ];
  return parts.length === 0
    ? 'Nothing waits for it. What has begun is done to its end.'
    : `${parts.join('; ')}. None of it would be done while it does not run.`;
}
