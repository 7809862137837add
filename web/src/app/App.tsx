import '../parts/masthead.css';

import { lazy, Suspense, type ComponentType } from 'react';
import { Navigate, Route, Routes, useLocation } from 'react-router';

import { SignIn } from '../access/SignIn';
import { writeIn } from '../parts/notation';
import { useSession } from '../parts/useSession';
import { BoardScreen } from '../board/BoardScreen';
import { DropAnywhere } from './DropAnywhere';
import { Keys } from './Keys';
import { TypedText } from './TypedText';

/** A lazily loaded screen. */
const later = <T extends string>(load: () => Promise<Record<T, ComponentType>>, name: T) =>
  lazy(async () => ({ default: (await load())[name] }));

const ApiScreen = later(() => import('../reference/ApiScreen'), 'ApiScreen');
const EditionList = later(() => import('../editions/EditionList'), 'EditionList');
const EditionScreen = later(() => import('../editions/EditionScreen'), 'EditionScreen');
const GroupingsScreen = later(() => import('../groupings/GroupingsScreen'), 'GroupingsScreen');
const HistoryScreen = later(() => import('../history/HistoryScreen'), 'HistoryScreen');
const MailScreen = later(() => import('../editions/MailScreen'), 'MailScreen');
const ReaderScreen = later(() => import('../editions/ReaderScreen'), 'ReaderScreen');
const ReportList = later(() => import('../report/list/ReportList'), 'ReportList');
const ReportScreen = later(() => import('../report/ReportScreen'), 'ReportScreen');
const ScheduleScreen = later(() => import('../board/ScheduleScreen'), 'ScheduleScreen');
const SourceList = later(() => import('../sources/SourceList'), 'SourceList');
const SourceScreen = later(() => import('../sources/SourceScreen'), 'SourceScreen');

export function App() {
  const { now, awaited, again } = useSession();
  writeIn(undefined); // a screen of an edition says otherwise
  const byLink = useLocation().pathname.startsWith('/read/');
  if (awaited) return <header className="mast" />;
  if (!byLink && now?.accounts && !now.role) return <SignIn done={again} />;
  return (
    <>
      <Suspense fallback={<header className="mast" />}>
        {now?.role === 'reader' && !byLink ? <ForReaders /> : <ForAnalysts />}
      </Suspense>
      <Keys />
      <TypedText />
    </>
  );
}

/** The application for readers: issued editions only. */
const ForReaders = () => (
  <Routes>
    <Route path="/issued" element={<ReaderScreen />} />
    <Route path="/issued/editions/:id" element={<ReaderScreen />} />
    <Route path="*" element={<Navigate to="/issued" replace />} />
  </Routes>
);

const ForAnalysts = () => (
  <>
    <DropAnywhere />
    <Routes>
      <Route path="/" element={<Navigate to="/board" replace />} />
      <Route path="/board" element={<BoardScreen />} />
      <Route path="/reports" element={<ReportList />} />
      <Route path="/reports/:id" element={<ReportScreen />} />
      <Route path="/reports/:id/editions" element={<EditionList />} />
      <Route path="/editions/:id" element={<EditionScreen />} />
      <Route path="/schedules" element={<ScheduleScreen />} />
      <Route path="/history" element={<HistoryScreen />} />
      <Route path="/reference" element={<ApiScreen />} />
      <Route path="/mail" element={<MailScreen />} />
      <Route path="/read/:secret" element={<ReaderScreen />} />
      <Route path="/read/:secret/editions/:id" element={<ReaderScreen />} />
      <Route path="/sources" element={<SourceList />} />
      <Route path="/sources/:id" element={<SourceScreen />} />
      <Route path="/groupings" element={<GroupingsScreen />} />
      <Route path="/groupings/:id" element={<GroupingsScreen />} />
      <Route path="*" element={<Navigate to="/board" replace />} />
    </Routes>
  </>
);
