import { ActionIcon, Button } from '@mantine/core';
import { IconPlus, IconTrash } from '@tabler/icons-react';
import { elementsOf, isJsonObject, type Field, type Json, type JsonObject } from '@vast-knot/core';
import { OneInput, type FieldInputProps } from './OneInput';

/** A list of objects as rows of inputs; rows are added behind the others and taken away one by one. */
export function ListInput({ field, label, json, changed, onChange, onEnter }: FieldInputProps) {
  const elements = elementsOf(json).map((element): JsonObject => (isJsonObject(element) ? element : {}));
  const columns = (field.fields ?? []).filter(({ readOnly }) => !readOnly);
  const put = (at: number, name: string, value: Json) =>
    onChange(elements.map((element, index) => (index === at ? withField(element, name, value) : element)));
  return (
    <div className={`list-rows list-input ${changed ? 'changed' : ''}`} role="group" aria-label={label}>
      <table>
        <thead>
          <tr>
            {columns.map((column) => (
              <th key={column.name} title={column.name}>
                {column.label}
                {column.required && <span aria-hidden> *</span>}
              </th>
            ))}
            <th>
              <span className="visually-hidden">Take away</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {elements.map((element, at) => (
            <tr key={at}>
              {columns.map((column) => (
                <td key={column.name} className={widthOf(column)}>
                  <OneInput
                    field={column}
                    label={`${column.label} of element ${at + 1}`}
                    json={element[column.name]}
                    changed={false}
                    onChange={(value) => put(at, column.name, value)}
                    onEnter={onEnter}
                  />
                </td>
              ))}
              <td>
                <ActionIcon
                  variant="subtle"
                  aria-label={`Take away element ${at + 1}`}
                  onClick={() => onChange(elements.filter((_element, index) => index !== at))}
                >
                  <IconTrash size={14} />
                </ActionIcon>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button
        variant="subtle"
        size="compact-xs"
        leftSection={<IconPlus size={12} aria-hidden />}
        onClick={() => onChange([...elements, nextElement(field, elements)])}
      >
        Add an element
      </Button>
    </div>
  );
}

/** Returns how wide an input a field wants: for text that may be longer than a code, for a code, or for a number. */
function widthOf({ type, maxLength = Infinity }: Field): string | undefined {
  if (type !== 'text') return undefined;
  return maxLength > 24 ? 'long' : 'code';
}

/** Returns a new element; a key that is a number counts on. */
function nextElement({ fields = [], keyField }: Field, elements: readonly JsonObject[]): JsonObject {
  const key = fields.find(({ name }) => name === keyField);
  if (key?.type !== 'integer') return {};
  const held = elements.map((element) => Number(element[key.name])).filter(Number.isSafeInteger);
  return { [key.name]: Math.max(0, ...held) + 1 };
}

/** Returns an element with another value; a blank one is left out, as systems that are strict about types want it. */
function withField(element: JsonObject, name: string, value: Json): JsonObject {
  const { [name]: _old, ...others } = element;
  return value === null || value === '' ? others : { ...element, [name]: value };
}
