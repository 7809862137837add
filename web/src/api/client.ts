import type { components } from './types';

import { asked } from './asking';
import type { Answer, Body, PathOf, Way } from './paths';

export { Fault } from './asking';

type Schemas = components['schemas'];
export type Report = Schemas['Report'];
export type ReportView = Schemas['ReportView'];
export type ReportLine = Schemas['ReportLine'];
export type SheetView = Schemas['SheetView'];
export type EditView = Schemas['EditView'];
export type Needed = Schemas['Needed'];
export type Shown = Schemas['Shown'];
export type ChosenView = Schemas['ChosenView'];
export type TrailView = Schemas['TrailView'];
export type PartView = Schemas['PartView'];
export type RecordsView = Schemas['RecordsView'];
export type DriversView = Schemas['DriversView'];
export type BarsView = Schemas['BarsView'];
export type Renaming = Schemas['Renaming'];
export type Gathering = Schemas['Gathering'];
export type Ungrouping = Schemas['Ungrouping'];
export type OtherSource = Required<Schemas['OtherSource']>;
export type Narrowing = Schemas['Narrowing'];
export type GlanceView = Schemas['GlanceView'];
export type Worded = Schemas['Worded'];
export type HeardText = Schemas['HeardText'];
export type Phrase = Schemas['Phrase'];
export type Clause = Required<Schemas['Clause']>;
export type Clauses = Omit<Schemas['Clauses'], 'clauses'> & { clauses: Clause[] };
export type ProposalView = Schemas['ProposalView'];
export type LinesView = Schemas['LinesView'];
export type TieOutView = Schemas['TieOut'];
export type SourceLine = Schemas['SourceLine'];
export type SourceView = Schemas['SourceView'];
export type ColumnView = Schemas['Profile'];
export type IntakeView = Schemas['IntakeView'];
export type WaitingView = Schemas['WaitingView'];
export type ReadColumn = Schemas['ReadColumn'];
export type ColumnReading = Schemas['ColumnReading'];
export type RefusedView = Schemas['RefusedView'];
export type GroupingLine = Schemas['GroupingLine'];
export type ValueCount = Schemas['ValueCount'];
export type WorkspaceView = Schemas['WorkspaceView'];
export type WorkspacePut = Schemas['WorkspacePut'];
export type JobView = Schemas['JobView'];
export type PreviewView = Schemas['Preview'];
export type HeadlineView = Schemas['HeadlineView'];
export type BundleView = Schemas['BundleView'];
export type PageChoice = Schemas['PageChoice'];
export type BoardView = Schemas['BoardView'];
export type CrossingView = Schemas['CrossingView'];
export type BoardRowView = Schemas['BoardRowView'];
export type CheckedView = Schemas['CheckedView'];
export type IssueOutcome = Schemas['IssueOutcome'];
export type IssuedView = Schemas['IssuedView'];
export type EditionLine = Schemas['EditionLine'];
export type EditionView = Schemas['EditionView'];
export type WhatMoved = Schemas['WhatMoved'];
export type MovedCellView = Schemas['MovedCellView'];
export type MovedCause = Schemas['MovedCause'];
export type LinkView = Schemas['LinkView'];
export type ReaderView = Schemas['ReaderView'];
export type SendingView = Schemas['SendingView'];
export type PartsView = Schemas['PartsView'];
export type MailView = Schemas['MailView'];
export type InboxMail = Schemas['InboxMail'];
export type LogLine = Schemas['LogLine'];
export type ChangeView = Schemas['ChangeView'];
export type RevisionView = Schemas['RevisionView'];
export type Cadence = Schemas['Cadence'];
export type Delivery = Schemas['Delivery'];
export type Reread = Schemas['Reread'];
export type FootView = Schemas['FootView'];
export type MadeView = Schemas['MadeView'];
export type MadeColumn = MadeView['column'];
export type MadeTried = Schemas['MadeTried'];
export type Match = Schemas['Match'];
export type WayOut = Schemas['WayOut'];
export type Connection = Schemas['Connection'];
export type Fetching = Schemas['Fetching'];
export type AdjustmentRead = Schemas['LinesRead'];

export type ChoiceView = Schemas['ChoiceView'];
export type GroupingView = Schemas['GroupingView'];
export type Tree = Schemas['Tree'];
export type TreeNode = Schemas['Node'];
export type Calendar = Schemas['Calendar'];
export type Buckets = Schemas['Buckets'];
export type Grouping = GroupingView['document'];
export type TreeLook = Schemas['TreeLookView'];
export type TreeRow = Schemas['TreeRow'];
export type CalendarLook = Schemas['CalendarLookView'];
export type BucketLook = Schemas['BucketLookView'];
export type Impact = Schemas['Impact'];

export type Control = NonNullable<Report['controls']>[number];
export type WorkedLine = NonNullable<Report['lines']>[number];
export type Beside = NonNullable<Report['beside']>[number];
export type Figure = Report['figures'][number];
export type AxisEntry = NonNullable<Report['down']>[number];
export type CategoryEntry = Schemas['CategoryEntry'];
export type PeriodEntry = Schemas['PeriodEntry'];
export type BucketEntry = Schemas['BucketEntry'];
export type AgeEntry = Schemas['AgeEntry'];
export type Window = Schemas['Window'];
export type Taken = Schemas['Taken'];

/** Options of a call: the revision that a change was made to, and an abort signal. */
interface With {
  revision?: number | undefined;
  signal?: AbortSignal;
}

function call<T>(method: string, path: string, body: unknown, more: With = {}): Promise<T> {
  const headers: Record<string, string> = {};
  const init: RequestInit & { method: string } = { method, headers };
  if (more.signal) init.signal = more.signal;
  if (more.revision !== undefined) headers['If-Match'] = `"${more.revision}"`;
  if (body !== undefined) {
    init.body = JSON.stringify(body);
    headers['Content-Type'] = 'application/json';
  }
  return asked<T>(path, init);
}

/** The arguments after an address: the body, if its path takes one; a type error if there is no such path. */
type Sent<Address extends string, W extends Way> = [PathOf<Address, W>] extends [never]
  ? [never]
  : undefined extends Body<Address, W>
    ? [body?: Body<Address, W>, more?: With]
    : [body: Body<Address, W>, more?: With];

type Asked<Address extends string> = [PathOf<Address, 'get'>] extends [never] ? [never] : [more?: With];

/** A method with a body: its answer is typed by the address, through the generated paths. */
const sending =
  <W extends Way>(way: W) =>
  <Address extends string>(path: Address, ...[body, more]: Sent<Address, W>): Promise<Answer<Address, W>> =>
    call(way.toUpperCase(), path, body, more);

export const get = <Address extends string>(
  path: Address,
  ...[more]: Asked<Address>
): Promise<Answer<Address, 'get'>> => call('GET', path, undefined, more);
export const post = sending('post');
export const put = sending('put');
export const patch = sending('patch');
export const remove = sending('delete');

/** Uploads a file: to correct the lines of an intake, or for the source that it belongs to. */
export function sendFile(
  file: File,
  source: string,
  more: { mends?: number | undefined; match?: boolean } = {},
): Promise<JobView> {
  const form = new FormData();
  form.append('file', file);
  form.append('source', source);
  if (more.mends !== undefined) form.append('mends', String(more.mends));
  if (more.match) form.append('match', 'true');
  return asked<JobView>('/waiting', { method: 'POST', body: form });
}

export function read<T>(file: File, path: string): Promise<T> {
  const form = new FormData();
  form.append('file', file);
  return asked<T>(path, { method: 'POST', body: form });
}

/** Previews a bundle, or imports it with its clashes resolved by each grouping's name. */
export function sendBundle<T>(
  file: File,
  path: string,
  more: { source: string; ways: Record<string, string>; columns?: Record<string, string> },
): Promise<T> {
  const form = new FormData();
  form.append('file', file);
  if (more.source) form.append('source', more.source);
  if (more.columns) form.append('columns', JSON.stringify(more.columns));
  Object.entries(more.ways).forEach(([name, way]) => way !== 'keep' && form.append(way, name));
  return asked<T>(path, { method: 'POST', body: form });
}

/** A category tree read from a delimited file. */
export function sendTree(file: File, name: string): Promise<GroupingView> {
  const form = new FormData();
  form.append('file', file);
  form.append('name', name);
  return asked<GroupingView>('/trees/from-file', { method: 'POST', body: form });
}

/** A calendar's table read from a delimited file. */
export const sendTable = (file: File) => read<NonNullable<Calendar['table']>>(file, '/tables/from-file');

/** The mark on the covers of packs. */
export function sendMark(file: File): Promise<unknown> {
  const form = new FormData();
  form.append('file', file);
  return asked<unknown>('/workspace/mark', { method: 'PUT', body: form });
}

/** Control totals read from a file. */
export const sendControls = (file: File) => read<Control[]>(file, '/controls/from-file');
