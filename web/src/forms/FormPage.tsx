import { useParams } from 'react-router';
import '../arrivals/arrivals.css';
import { Empty, Failure, Loading } from '../parts/states';
import { FormSheet } from './FormSheet';
import { useForms } from './useForms';

/** The sheet of one form. */
export function FormPage() {
  const { system = '', type = '' } = useParams();
  const forms = useForms();
  if (forms.isPending) return <Loading />;
  if (forms.isError) return <Failure error={forms.error} again={() => void forms.refetch()} />;
  const view = forms.data.find((each) => each.system === system && each.type.name === type);
  if (!view) return <Empty title="There is no such form">It may have been taken out.</Empty>;
  return <FormSheet key={`${system} ${type}`} view={view} />;
}
