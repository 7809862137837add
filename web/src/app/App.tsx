import { Navigate, Route, Routes } from 'react-router';

import { GroupingsScreen } from '../groupings/GroupingsScreen';
import { ReportList } from '../report/list/ReportList';
import { ReportScreen } from '../report/ReportScreen';
import { SourceList } from '../sources/SourceList';
import { SourceScreen } from '../sources/SourceScreen';
import { Keys } from './Keys';

export function App() {
  return (
    <>
      <Routes>
        <Route path="/" element={<Navigate to="/reports" replace />} />
        <Route path="/reports" element={<ReportList />} />
        <Route path="/reports/:id" element={<ReportScreen />} />
        <Route path="/sources" element={<SourceList />} />
        <Route path="/sources/:id" element={<SourceScreen />} />
        <Route path="/groupings" element={<GroupingsScreen />} />
        <Route path="/groupings/:id" element={<GroupingsScreen />} />
        <Route path="*" element={<Navigate to="/reports" replace />} />
      </Routes>
      <Keys />
    </>
  );
}
