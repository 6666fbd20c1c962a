import { Button } from '@mantine/core';
import { askable, leafFields } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { asking, withoutField, type FormDraft } from './formEdits';

interface NotAskedProps {
  readonly draft: FormDraft;
  readonly edit: (change: (draft: FormDraft) => FormDraft) => void;
}

/** The fields of the record type that the form does not ask for. */
export function NotAsked({ draft: { type, form }, edit }: NotAskedProps) {
  const mayChange = useMay('systems.change');
  const asked = new Set(form?.items.flatMap((item) => (item.kind === 'question' ? [item.field] : [])));
  const left = leafFields(type.fields).filter(({ path, field }) => !asked.has(path) && !field.readOnly);
  if (left.length === 0) return null;
  return (
    <section aria-label="Fields that are not asked">
      <h2 className="form-part">Not asked</h2>
      <ul className="not-asked">
        {left.map(({ path, label, field }) => (
          <li key={path}>
            {label} <span className="mono small dim">{path}</span>
            {mayChange && (
              <span className="side-by-side">
                {askable.includes(field.type) && (
                  <Button
                    variant="subtle"
                    size="compact-sm"
                    aria-label={`Ask for ${label}`}
                    onClick={() => edit((known) => asking(known, path))}
                  >
                    Ask for it
                  </Button>
                )}
                {path !== type.idField && path !== type.nameField && (
                  <Button
                    variant="subtle"
                    color="rust"
                    size="compact-sm"
                    aria-label={`Take the field ${label} out`}
                    onClick={() => edit((known) => withoutField(known, path))}
                  >
                    Take the field out
                  </Button>
                )}
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
