import { useParams } from 'react-router';
import { useRule, useSystems, useTables } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { RuleSheet } from './RuleSheet';

/** The rule sheet's page: fetches what the sheet is made of. */
export function RulePage() {
  const { id = '' } = useParams();
  const rule = useRule(id);
  const systems = useSystems();
  const tables = useTables();
  const failed = [rule, systems, tables].find(({ isError }) => isError);
  if (failed) return <Failure error={failed.error} again={() => void failed.refetch()} />;
  if (!rule.data || !systems.data || !tables.data) return <Loading />;
  return <RuleSheet key={rule.data.id} rule={rule.data} systems={systems.data} tables={tables.data} />;
}
