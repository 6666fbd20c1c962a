import { Button, Select, Textarea, TextInput } from '@mantine/core';
import { proposeForm, type Form, type FormFinding } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { keyFor } from '../parts/keyFor';
import { zoneHere } from '../parts/zoneHere';
import { withForm, type FormDraft } from './formEdits';
import { pageOf } from './FormsPage';

interface FormWordsProps {
  readonly draft: FormDraft;
  readonly edit: (change: (draft: FormDraft) => FormDraft, part?: string) => void;
  readonly findings: readonly FormFinding[];
}

/** What the page of a form says of itself, and whether it takes answers. */
export function FormWords({ draft, edit, findings }: FormWordsProps) {
  const mayChange = useMay('systems.change');
  const { type, form } = draft;
  if (!form)
    return (
      <p>
        Nobody answers {type.plural.toLowerCase()} on a page.{' '}
        {mayChange && (
          <Button
            variant="default"
            onClick={() =>
              edit((known) => ({
                ...known,
                form: proposeForm(type, { address: keyFor(type.label, 'form', []), zone: zoneHere() }),
              }))
            }
          >
            Make a page that asks for its fields
          </Button>
        )}
      </p>
    );
  const put = (change: Partial<Form>, part?: string) => edit((known) => withForm(known, change), part);
  const wrong = (member: keyof Form) => findings.find(({ at }) => at === member)?.because;
  return (
    <div className="form-words">
      <TextInput
        label="Title"
        value={form.title}
        readOnly={!mayChange}
        maxLength={120}
        onChange={({ currentTarget: { value } }) => put({ title: value }, 'title')}
      />
      <TextInput
        label="Address of the page"
        value={form.address}
        readOnly={!mayChange}
        maxLength={60}
        className="mono-input"
        leftSection={<span className="mono small dim">/forms/</span>}
        leftSectionWidth={58}
        onChange={({ currentTarget: { value } }) =>
          put({ address: value.toLowerCase().replaceAll(/[^a-z0-9-]/g, '-') }, 'address')
        }
        inputWrapperOrder={['label', 'input', 'description']}
        description={
          <a href={pageOf(form.address)} target="_blank" rel="noreferrer">
            Open the page as it is saved
          </a>
        }
      />
      <Select
        label="Answers"
        data={[
          { value: 'yes', label: 'are taken' },
          { value: 'no', label: 'are not taken' },
        ]}
        value={form.open ? 'yes' : 'no'}
        disabled={!mayChange}
        allowDeselect={false}
        onChange={(value) => put({ open: value === 'yes' })}
      />
      <TextInput
        label="Times are those of"
        value={form.zone}
        readOnly={!mayChange}
        error={wrong('zone')}
        className="mono-input"
        onChange={({ currentTarget: { value } }) => put({ zone: value }, 'zone')}
      />
      <Textarea
        label="Above the questions"
        value={form.intro}
        readOnly={!mayChange}
        autosize
        minRows={2}
        maxRows={8}
        onChange={({ currentTarget: { value } }) => put({ intro: value }, 'intro')}
      />
      <Textarea
        label="Said to whoever has answered"
        value={form.thanks}
        readOnly={!mayChange}
        autosize
        minRows={2}
        maxRows={8}
        onChange={({ currentTarget: { value } }) => put({ thanks: value }, 'thanks')}
      />
    </div>
  );
}
