import '../intake/intake.css';
import '../parts/list.css';
import './reference.css';

import { useQuery } from '@tanstack/react-query';

import { asked as asks } from '../api/asking';
import { Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';

interface Parameter {
  name: string;
  in: string;
  required?: boolean;
}
interface Operation {
  tags?: string[];
  summary?: string;
  description?: string;
  parameters?: Parameter[];
  responses: Record<string, { content?: Record<string, unknown> }>;
  requestBody?: { content: Record<string, { schema: { $ref?: string } }> };
}
interface OpenApi {
  info: { version: string };
  paths: Record<string, Record<string, Operation>>;
}

/** The API for programs, read from the OpenAPI document that the server gives. */
export function ApiScreen() {
  const found = useQuery({
    queryKey: ['openapi'],
    queryFn: () => asks<OpenApi>('/openapi.json', { method: 'GET' }),
  });
  const groups = grouped(found.data);
  return (
    <>
      <Masthead title="For programs" />
      <main className="list-page reference">
        <h1 className="page-title">For programs</h1>
        <p className="say">
          Version {found.data?.info.version}. The whole of it, with every type, as an OpenAPI 3.1 document:{' '}
          <a className="link" href="/api/openapi.json" target="_blank" rel="noreferrer">
            /api/openapi.json
          </a>
          . Where people sign in, a program bears a token made by <code>kalendor user token</code>:{' '}
          <code>Authorization: Bearer …</code>. A definition is changed with <code>If-Match</code>, its
          revision; what is refused is a problem document (RFC 9457).
        </p>
        <FaultNote error={found.error} />
        {groups.map(([tag, operations]) => (
          <section key={tag}>
            <h2>{tag}</h2>
            <div className="paper">
              <table>
                <tbody>
                  {operations.map((one) => (
                    <tr key={`${one.method} ${one.path}`}>
                      <td className="way">{one.method.toUpperCase()}</td>
                      <td>
                        <code>{one.path}</code>
                        <p>
                          {one.operation.description ?? one.operation.summary}
                          {asked(one.operation) && <span className="quiet"> {asked(one.operation)}</span>}
                        </p>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          </section>
        ))}
      </main>
      <footer className="tie" />
    </>
  );
}

interface Listed {
  method: string;
  path: string;
  operation: Operation;
}

/** The operations by the group that they are of. */
function grouped(document: OpenApi | undefined): [string, Listed[]][] {
  const groups = new Map<string, Listed[]>();
  Object.entries(document?.paths ?? {}).forEach(([path, ways]) =>
    Object.entries(ways).forEach(([method, operation]) => {
      const tag = operation.tags?.[0] ?? 'other';
      groups.set(tag, [...(groups.get(tag) ?? []), { method, path, operation }]);
    }),
  );
  return [...groups];
}

/** What is asked along: the query's names and the body's type. */
function asked(operation: Operation): string {
  const names = (operation.parameters ?? []).filter((one) => one.in === 'query').map((one) => one.name);
  const body = Object.values(operation.requestBody?.content ?? {})[0]
    ?.schema.$ref?.split('/')
    .pop();
  const parts = [names.length ? `?${names.join(', ')}` : '', body ? `body: ${body}` : ''].filter(Boolean);
  return parts.join(' · ');
}
