import { useParams } from 'react-router';
import { useKnown, useRule, useSystems } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { RuleSheet } from './RuleSheet';

/** The rule sheet's page: fetches what the sheet is made of. */
export function RulePage() {
  const { id = '' } = useParams();
  const rule = useRule(id);
  const systems = useSystems();
  const { known, error } = useKnown();
  if (rule.isError) return <Failure error={rule.error} again={() => void rule.refetch()} />;
  if (error !== undefined) return <Failure error={error} />;
  if (!rule.data || !systems.data || !known) return <Loading />;
  return <RuleSheet key={rule.data.id} rule={rule.data} systems={systems.data} known={known} />;
}
