import { ALL_RULES, READINESS_RULES, type ReadinessRule } from '@stem-trace/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { readinessRulesQuery } from '../../api/build.js';
import { addressOf, send } from '../../api/client.js';
import { Hint, Trouble } from '../../ui/controls.js';
import { Tick } from '../../ui/tick.js';

/** What bills are checked for before they are released. */
export function BillsSection(): React.JSX.Element {
  const queries = useQueryClient();
  const { data, error } = useQuery(readinessRulesQuery);
  const [trouble, setTrouble] = useState('');
  const set = async (rule: ReadinessRule, isOn: boolean): Promise<void> => {
    setTrouble('');
    const rules = ALL_RULES.filter((each) => (each === rule ? isOn : data?.rules.includes(each)));
    try {
      queries.setQueryData(
        readinessRulesQuery.queryKey,
        await send('PUT', '/api/settings/readiness', { rules }),
      );
    } catch (failure) {
      setTrouble(failure instanceof Error ? failure.message : String(failure));
    }
  };
  return (
    <>
      <Hint>
        A bill is released only where each of these is true. A release fills in a workbook; look at the{' '}
        <a href={addressOf('/api/build/template')}>template that ships</a> to make one of your own.
      </Hint>
      {error ? <Trouble>{error.message}</Trouble> : null}
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <Listed>
        {data
          ? ALL_RULES.map((rule) => (
              <Tick
                key={rule}
                isSelected={data.rules.includes(rule)}
                onChange={(isOn) => void set(rule, isOn)}
              >
                {READINESS_RULES[rule]}
              </Tick>
            ))
          : null}
      </Listed>
    </>
  );
}

const Listed = styled.div`
  display: grid;
  gap: 10px;
`;
