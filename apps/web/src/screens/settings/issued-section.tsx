import { CAN_BE_ISSUED, ISSUED_OF, type IssuedKind, type IssuedOf } from '@stem-trace/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { issuedSettingQuery } from '../../api/issued.js';
import { Hint, Trouble } from '../../ui/controls.js';
import { Tick } from '../../ui/tick.js';

const OF: Readonly<Record<IssuedOf, string>> = {
  part: 'Parts',
  assembly: 'Assemblies',
  drawing: 'Drawings',
  document: 'Documents',
};

const MEANS: Readonly<Partial<Record<IssuedKind, string>>> = {
  PDF: 'PDF, stamped with number, revision, state and day',
  STEP: 'STEP, in one file',
  glTF: 'glTF, to look at anywhere',
};

/** Which neutral files are made of what is released. */
export function IssuedSection(): React.JSX.Element {
  const queries = useQueryClient();
  const { data, error } = useQuery(issuedSettingQuery);
  const set = useMutation({
    mutationFn: ({ of, kind, isOn }: { of: IssuedOf; kind: IssuedKind; isOn: boolean }) => {
      const before = queries.getQueryData(issuedSettingQuery.queryKey)?.issued ?? CAN_BE_ISSUED;
      const kinds = CAN_BE_ISSUED[of].filter((each) => (each === kind ? isOn : before[of].includes(each)));
      return send('PUT', '/api/settings/issued', { issued: { ...before, [of]: kinds } });
    },
    onSuccess: (answer) => queries.setQueryData(issuedSettingQuery.queryKey, answer),
  });
  const trouble = error ?? set.error;
  return (
    <>
      <Hint>
        Made when something is released by a step that says so (Lifecycles), kept with the version and never
        changed. Bills always get the workbooks they name and the XML that planning is sent.
      </Hint>
      {trouble ? <Trouble>{trouble.message}</Trouble> : null}
      {data
        ? ISSUED_OF.map((of) => (
            <Listed key={of} role="group" aria-label={OF[of]}>
              <b>{OF[of]}</b>
              {CAN_BE_ISSUED[of].map((kind) => (
                <Tick
                  key={kind}
                  isSelected={data.issued[of].includes(kind)}
                  onChange={(isOn) => set.mutate({ of, kind, isOn })}
                >
                  {MEANS[kind] ?? kind}
                </Tick>
              ))}
            </Listed>
          ))
        : null}
    </>
  );
}

const Listed = styled.div`
  display: grid;
  gap: 8px;
  margin-bottom: 14px;
`;
