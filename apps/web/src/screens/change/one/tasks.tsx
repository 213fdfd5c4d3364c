/** What is to be done besides: by whom, until when. Ticking off is done at once; the rest is saved with the order. */
import type { ChangeTask } from '@stem-trace/core';
import { Plus } from 'lucide-react';
import styled from 'styled-components';
import { useChangeDeed } from '../../../api/changes.js';
import { Box, QuietButton, Select, Soft, Trouble } from '../../../ui/controls.js';
import { DayField } from '../../../ui/day-field.js';
import { Tick } from '../../../ui/tick.js';
import { When } from '../../../ui/when.js';
import type { PartProps } from './change-form.js';
import { Part, TakeOut } from './parts.js';
import { usePeople } from '../../../api/people.js';

export function Tasks({ view, contents: { tasks }, isLocked, set }: PartProps): React.JSX.Element | null {
  const deed = useChangeDeed();
  const people = usePeople();
  const known = new Map(view.tasks.map((task) => [task.key, task]));
  if (isLocked && tasks.length === 0) return null;
  const change = (at: number, next: Partial<ChangeTask>): void =>
    set({ tasks: tasks.map((task, other) => (other === at ? { ...task, ...next } : task)) });
  return (
    <Part title="Tasks">
      {deed.error ? <Trouble>{deed.error.message}</Trouble> : null}
      <List>
        {tasks.map((task, at) => {
          const saved = known.get(task.key);
          return (
            <li key={task.key}>
              <Tick
                aria-label={`Done: ${task.what}`}
                isSelected={saved?.done !== undefined && saved.done !== null}
                isDisabled={!saved?.mayTick || deed.isPending}
                onChange={(done) => deed.mutate({ kind: 'tick', change: view.number, task: task.key, done })}
              />
              {isLocked ? (
                <span>{task.what}</span>
              ) : (
                <Box
                  aria-label={`Task ${at + 1}`}
                  placeholder="what is to be done"
                  value={task.what}
                  onChange={({ target }) => change(at, { what: target.value })}
                />
              )}
              {isLocked ? null : (
                <TakeOut
                  label={`Take task ${at + 1} out`}
                  onPress={() => set({ tasks: tasks.filter((each) => each !== task) })}
                />
              )}
              <TaskFrame {...{ task, at, isLocked, people }} onChange={(next) => change(at, next)} />
              {saved?.done ? (
                <Soft>
                  done by {saved.done.by}, <When at={saved.done.at} />
                </Soft>
              ) : null}
            </li>
          );
        })}
      </List>
      {isLocked ? null : (
        <QuietButton
          onPress={() =>
            set({ tasks: [...tasks, { key: crypto.randomUUID(), what: '', who: '', until: '' }] })
          }
        >
          <Plus size={14} aria-hidden /> Add a task
        </QuietButton>
      )}
    </Part>
  );
}

interface TaskFrameProps {
  readonly task: ChangeTask;
  readonly at: number;
  readonly isLocked: boolean;
  readonly people: ReturnType<typeof usePeople>;
  readonly onChange: (next: Partial<ChangeTask>) => void;
}

function TaskFrame({
  task: { who, until },
  at,
  isLocked,
  people,
  onChange,
}: TaskFrameProps): React.JSX.Element {
  if (isLocked)
    return (
      <Soft>
        {people.find(({ key }) => key === who)?.text ?? who} {until}
      </Soft>
    );
  return (
    <Who>
      <Select
        aria-label={`Who does task ${at + 1}`}
        value={who}
        onChange={({ target }) => onChange({ who: target.value })}
      >
        <option value="">nobody yet</option>
        {people.map(({ key, text }) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </Select>
      <DayField
        label={`Day of task ${at + 1}`}
        value={until}
        onChange={(day) => onChange({ until: day })}
        isBare
        mayBeLater
      />
    </Who>
  );
}

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
  display: grid;
  gap: 8px;
  li {
    display: grid;
    grid-template-columns: 22px minmax(0, 1fr) auto;
    gap: 4px 6px;
    align-items: center;
  }
  li > ${Soft} {
    grid-column: 2 / -1;
  }
`;
const Who = styled.div`
  grid-column: 2 / -1;
  display: flex;
  gap: 6px;
  select {
    flex: 1;
    min-width: 0;
  }
`;
