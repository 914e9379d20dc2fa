'use client';

import { useQuery } from '@tanstack/react-query';
import { getJson } from '@/client/api';
import { interfacePlace as texts } from './texts';

interface Operation {
  summary: string;
  tags: string[];
  'x-role': string;
  parameters?: {
    name: string;
    in: string;
    required: boolean;
    description?: string;
    schema: { type?: string; enum?: string[] };
  }[];
  requestBody?: { content: Record<string, { schema: unknown }> };
}
interface Document {
  info: { title: string; version: string; description: string };
  paths: Record<string, Record<string, Operation>>;
}

/** The interface for programs, to be read: every address, what it takes, who may ask. */
export function InterfacePlace() {
  const { data } = useQuery({
    queryKey: ['openapi'],
    queryFn: () => getJson<Document>('/api/v1/openapi.json'),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const all = Object.entries(data?.paths ?? {}).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
  );
  const headings = [...new Set(all.map((a) => a.operation.tags[0]!))];
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-4xl p-6">
        <h1 className="heading text-xl">{texts.theInterfaceForPrograms}</h1>
        <p className="mt-1 mb-4 text-muted">
          {texts.theSpecification(data?.info.description ?? '')}
          <a className="text-brass-text underline" href="/api/v1/openapi.json">
            {texts.openapiJson}
          </a>
          .
        </p>
        {headings.map((heading) => (
          <section key={heading} className="mb-6">
            <h2 className="heading mb-1 text-lg">{heading}</h2>
            {all
              .filter((a) => a.operation.tags[0] === heading)
              .map(({ path, method, operation }) => (
                <details key={method + path} className="border-b border-line/50 py-1.5">
                  <summary className="flex cursor-pointer items-baseline gap-3">
                    <code className="w-14 text-brass-text uppercase">{method}</code>
                    <code className="min-w-0 flex-1 truncate">{texts.apiV12(path)}</code>
                    <span className="w-1/2 text-muted">{operation.summary}</span>
                  </summary>
                  <div className="py-2 pl-17">
                    <p className="text-muted">{texts.whoMay(operation['x-role'])}</p>
                    {(operation.parameters ?? []).map((p) => (
                      <p key={p.name}>
                        <code>{p.name}</code>{' '}
                        <span className="text-muted">
                          {p.in}
                          {p.required ? '' : texts.optional}
                          {p.schema.enum ? `: ${p.schema.enum.join(', ')}` : ''}
                          {p.description ? ` · ${p.description}` : ''}
                        </span>
                      </p>
                    ))}
                    {operation.requestBody && (
                      <pre className="mt-1 max-h-72 overflow-auto rounded-md border border-line bg-panel p-2 text-[11.5px]">
                        {JSON.stringify(Object.values(operation.requestBody.content)[0]?.schema, null, 2)}
                      </pre>
                    )}
                  </div>
                </details>
              ))}
          </section>
        ))}
      </div>
    </div>
  );
}
