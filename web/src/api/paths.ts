import type { paths } from './types';

/* What the server answers to an address, from the generated paths: `/reports/${number}/sheet?columns=18` is answered as
 * `/api/reports/{id}/sheet` is. An address that the server does not have is an error of the compiler. */

export type Way = 'get' | 'post' | 'put' | 'patch' | 'delete';

type Parts<Path extends string> = Path extends `${infer Part}/${infer Rest}`
  ? [Part, ...Parts<Rest>]
  : [Path];
type WithoutQuery<Address extends string> = Address extends `${infer Path}?${string}` ? Path : Address;

/** Whether a part of a path is a literal, not a number, as in `/reports/tried`. */
type IsLiteral<Part extends string> = string extends Part
  ? false
  : Part extends `${number}` | 'undefined'
    ? false
    : true;

/** Whether the parts of an address are those of a path; a path's `{id}` stands for any part. */
type Fits<Given extends string[], Path extends string[]> = Path extends [
  infer Part extends string,
  ...infer More extends string[],
]
  ? Given extends [infer Own extends string, ...infer Rest extends string[]]
    ? Part extends '{id}'
      ? IsLiteral<Own> extends true
        ? false
        : Fits<Rest, More>
      : Part extends `{${string}}`
        ? Fits<Rest, More>
        : Own extends Part
          ? Fits<Rest, More>
          : false
    : false
  : Given extends []
    ? true
    : false;

type Answering<W extends Way> = {
  [P in keyof paths]: paths[P][W] extends { responses: unknown } ? P : never;
}[keyof paths];

type Matching<
  Path extends string,
  W extends Way,
  P extends Answering<W> = Answering<W>,
> = P extends `/api${infer Own}` ? (Fits<Parts<Path>, Parts<Own>> extends true ? P : never) : never;

/** The generated path that an address matches; never if the server has none. */
export type PathOf<Address extends string, W extends Way> = Address extends string
  ? Matching<WithoutQuery<Address>, W>
  : never;

type Told<T> = T extends { content: { 'application/json': infer Body } } ? Body : undefined;

/** The body of a successful answer; undefined if it is empty. */
export type Answer<Address extends string, W extends Way> = paths[PathOf<Address, W>][W] extends {
  responses: infer All;
}
  ? Told<All[Extract<keyof All, 200 | 201 | 202 | 204>]>
  : never;

/** The request body; undefined if there is none, or it is optional. */
export type Body<Address extends string, W extends Way> = paths[PathOf<Address, W>][W] extends {
  requestBody: infer Sent;
}
  ? Told<Sent>
  : paths[PathOf<Address, W>][W] extends { requestBody?: infer Sent }
    ? [NonNullable<Sent>] extends [never]
      ? undefined
      : Told<NonNullable<Sent>> | undefined
    : undefined;

/** The address of an edition: in the workspace, among the published ones, or behind a link. */
export type EditionPlace =
  `/editions/${number}` | `/published/editions/${number}` | `/read/${string}/editions/${number}`;

/** The address of a sheet whose lines, numbers and records can be requested. */
export type SheetPlace = `/reports/${number}` | EditionPlace;
