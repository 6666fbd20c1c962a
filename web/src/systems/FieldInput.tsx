import { ListInput } from './ListInput';
import { OneInput, type FieldInputProps } from './OneInput';

/** An input that fits the field's type and gives back what the system stores. */
export function FieldInput(props: FieldInputProps) {
  return props.field.type === 'list' && props.field.fields ? (
    <ListInput {...props} />
  ) : (
    <OneInput {...props} />
  );
}
