import { useQuery } from '@tanstack/react-query';
import { changesQuery, openOrders } from '../api/changes.js';
import { Pick } from '../ui/controls.js';

export interface OrderFieldProps {
  /** Number of the change order; empty for none. */
  readonly value: string;
  readonly onChange: (order: string) => void;
}

/** The change order that something is worked on for; nothing where there is none that is open. */
export function OrderField({ value, onChange }: OrderFieldProps): React.JSX.Element | null {
  const orders = openOrders(useQuery(changesQuery()).data ?? []);
  if (orders.length === 0) return null;
  return (
    <Pick
      label="For the change order"
      options={[
        { key: '', text: 'none' },
        ...orders.map(({ number, name }) => ({ key: number, text: `${number} ${name}` })),
      ]}
      value={value}
      onChange={onChange}
    />
  );
}
