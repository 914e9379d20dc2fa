import type { ReactNode } from 'react';

export function Section({
  title,
  about,
  action,
  children,
}: {
  title: string;
  about?: string | undefined;
  action?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section aria-label={title}>
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="heading text-lg">{title}</h2>
        {about && <span className="text-muted">{about}</span>}
        <span className="ml-auto">{action}</span>
      </div>
      {children}
    </section>
  );
}
