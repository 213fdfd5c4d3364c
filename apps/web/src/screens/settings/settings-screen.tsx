import { NavLink, Navigate, useParams } from 'react-router';
import styled from 'styled-components';
import { usePerson } from '../../frame/person.js';
import { colour } from '../../ui/theme.js';
import { AuditSection } from './audit-section.js';
import { IssuedSection } from './issued-section.js';
import { BillsSection } from './bills-section.js';
import { EntriesSection } from './entries-section.js';
import { JobsSection } from './jobs-section.js';
import { LifecycleSection } from './lifecycle/lifecycle-section.js';
import { NumbersSection } from './numbers-section.js';
import { PeopleSection } from './people-section.js';
import { PropertiesSection } from './properties-section.js';
import { SiteSection } from './site-section.js';
import { TitleBlockSection } from './title-block-section.js';
import { WebhooksSection } from './webhooks-section.js';
import { YouSection } from './you-section.js';

interface Section {
  readonly key: string;
  readonly title: string;
  readonly isForAdministrators: boolean;
  readonly show: () => React.JSX.Element;
}

const SECTIONS: readonly Section[] = [
  { key: 'you', title: 'You', isForAdministrators: false, show: () => <YouSection /> },
  {
    key: 'access',
    title: 'My sessions and tokens',
    isForAdministrators: false,
    show: () => <EntriesSection />,
  },
  { key: 'jobs', title: 'Background work', isForAdministrators: false, show: () => <JobsSection /> },
  { key: 'lifecycle', title: 'Lifecycles', isForAdministrators: false, show: () => <LifecycleSection /> },
  { key: 'site', title: 'Site', isForAdministrators: true, show: () => <SiteSection /> },
  { key: 'people', title: 'People', isForAdministrators: true, show: () => <PeopleSection /> },
  {
    key: 'properties',
    title: 'Properties and classes',
    isForAdministrators: true,
    show: () => <PropertiesSection />,
  },
  { key: 'numbers', title: 'Numbers', isForAdministrators: true, show: () => <NumbersSection /> },
  { key: 'title-block', title: 'Title blocks', isForAdministrators: true, show: () => <TitleBlockSection /> },
  { key: 'issued', title: 'Issued files', isForAdministrators: true, show: () => <IssuedSection /> },
  { key: 'bills', title: 'Bills', isForAdministrators: true, show: () => <BillsSection /> },
  { key: 'webhooks', title: 'Webhooks', isForAdministrators: true, show: () => <WebhooksSection /> },
  { key: 'audit', title: 'Audit trail', isForAdministrators: true, show: () => <AuditSection /> },
];

/** What is set for oneself, and by an administrator for all. */
export function SettingsScreen(): React.JSX.Element {
  const { section } = useParams();
  const person = usePerson();
  const open = SECTIONS.filter(
    ({ isForAdministrators }) => !isForAdministrators || person.role === 'administrator',
  );
  const shown = open.find(({ key }) => key === section);
  if (!shown) return <Navigate to={`/settings/${open[0]?.key ?? ''}`} replace />;
  return (
    <>
      <Tabs aria-label="Settings">
        {open.map(({ key, title }) => (
          <NavLink key={key} to={`/settings/${key}`}>
            {title}
          </NavLink>
        ))}
      </Tabs>
      {shown.show()}
    </>
  );
}

const Tabs = styled.nav`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  border-bottom: 1px solid ${colour.line};
  a {
    padding: 4px 0 7px;
    color: ${colour.inkSoft};
    text-decoration: none;
    border-bottom: 2px solid transparent;
  }
  a.active {
    color: ${colour.petrol};
    border-bottom-color: ${colour.petrol};
    font-weight: 600;
  }
`;
