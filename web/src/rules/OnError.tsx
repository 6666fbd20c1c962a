import { Select } from '@mantine/core';
import { memo } from 'react';
import { Phrase } from '../parts/Phrase';
import { useSheetTools } from './SheetContext';

/** What becomes of the others when one record fails: they go on, or nothing of the rule is written. */
export const OnError = memo(function OnError({ stops }: { readonly stops: boolean }) {
  const { edit } = useSheetTools();
  return (
    <div className="clause">
      <span className="word">if one fails</span>
      <span>
        <Phrase
          says={stops ? 'the rule writes nothing at all' : 'it is noted, and the others go on'}
          label="What happens when one record fails"
        >
          <Select
            label="When a record fails"
            data={[
              { value: 'go on', label: 'it is noted, and the others go on' },
              { value: 'stop', label: 'the rule writes nothing at all' },
            ]}
            value={stops ? 'stop' : 'go on'}
            onChange={(chosen) =>
              edit((body) => ({ ...body, onError: chosen === 'stop' ? 'stop' : 'go on' }))
            }
          />
        </Phrase>
      </span>
    </div>
  );
});
