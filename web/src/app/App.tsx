import { Navigate, Route, Routes } from 'react-router';

import { BoardScreen } from '../board/BoardScreen';
import { ScheduleScreen } from '../board/ScheduleScreen';
import { EditionList } from '../editions/EditionList';
import { EditionScreen } from '../editions/EditionScreen';
import { MailScreen } from '../editions/MailScreen';
import { ReaderScreen } from '../editions/ReaderScreen';
import { GroupingsScreen } from '../groupings/GroupingsScreen';
import { HistoryScreen } from '../history/HistoryScreen';
import { ReportList } from '../report/list/ReportList';
import { ReportScreen } from '../report/ReportScreen';
import { SourceList } from '../sources/SourceList';
import { SourceScreen } from '../sources/SourceScreen';
import { Keys } from './Keys';

export function App() {
  return (
    <>
      <Routes>
        <Route path="/" element={<Navigate to="/board" replace />} />
        <Route path="/board" element={<BoardScreen />} />
        <Route path="/reports" element={<ReportList />} />
        <Route path="/reports/:id" element={<ReportScreen />} />
        <Route path="/reports/:id/editions" element={<EditionList />} />
        <Route path="/editions/:id" element={<EditionScreen />} />
        <Route path="/schedules" element={<ScheduleScreen />} />
        <Route path="/history" element={<HistoryScreen />} />
        <Route path="/mail" element={<MailScreen />} />
        <Route path="/read/:secret" element={<ReaderScreen />} />
        <Route path="/read/:secret/editions/:id" element={<ReaderScreen />} />
        <Route path="/sources" element={<SourceList />} />
        <Route path="/sources/:id" element={<SourceScreen />} />
        <Route path="/groupings" element={<GroupingsScreen />} />
        <Route path="/groupings/:id" element={<GroupingsScreen />} />
        <Route path="*" element={<Navigate to="/board" replace />} />
      </Routes>
      <Keys />
    </>
  );
}
