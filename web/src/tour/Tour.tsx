import { Button } from '@mantine/core';
import { useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';
import { useRules } from '../api/queries';
import { tourSteps } from './steps';
import { setTourStep, useTourStep } from './useTour';

/** The first visit: one change from end to end in six steps, beside the places themselves, to be left at any time. */
export function Tour({ onEnd }: { readonly onEnd: () => void }) {
  const at = useTourStep();
  const rules = useRules().data;
  const navigate = useNavigate();
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    // Whoever goes on by keys goes on from the step, not from where the button was.
    if (at !== undefined) heading.current?.focus();
  }, [at]);
  if (at === undefined || !rules) return null;
  const steps = tourSteps(rules);
  const step = steps[at];
  if (!step) return null;
  const go = (next: number) => {
    const to = steps[next];
    if (!to) return;
    setTourStep(next);
    void navigate(to.path);
  };
  const end = () => {
    setTourStep(undefined);
    onEnd();
  };
  return (
    <section className="tour" aria-label="First visit">
      <h2 ref={heading} tabIndex={-1}>
        <span className="small dim">
          Step {at + 1} of {steps.length}:
        </span>{' '}
        {step.title}
      </h2>
      <p className="flush small">
        {step.see} <strong>Try it:</strong> {step.attempt}
      </p>
      <div className="side-by-side">
        {at > 0 && (
          <Button variant="default" onClick={() => go(at - 1)}>
            Back
          </Button>
        )}
        {at < steps.length - 1 ? (
          <Button onClick={() => go(at + 1)}>Next: {steps[at + 1]?.title.toLowerCase()}</Button>
        ) : (
          <Button onClick={end}>Done</Button>
        )}
        <Button variant="subtle" onClick={() => void navigate(step.path)}>
          Take me there
        </Button>
        {at < steps.length - 1 && (
          <Button variant="subtle" onClick={end}>
            Leave
          </Button>
        )}
      </div>
    </section>
  );
}
