'use client';

import { clsx } from 'clsx';
import { Check, ChevronDown } from 'lucide-react';
import { Select as Radix } from 'radix-ui';
import { type ComponentProps, type InputHTMLAttributes, type ReactNode, useEffect, useId, useState } from 'react';

export const inputLook =
  'rounded-md border border-line bg-raised px-2.5 py-1.5 text-ink placeholder:text-muted focus-visible:outline-offset-0';

export function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is the child
    <label className="flex flex-col gap-1">
      <span className="text-muted">{label}</span>
      {children}
    </label>
  );
}

/** A control with its name beside it, for panels of many. */
export function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[52px_minmax(0,1fr)] items-center gap-2">
      <span className="text-[12px] text-muted">{name}</span>
      {children}
    </div>
  );
}

/** Text that is kept on Enter or on leaving, and given up on Escape. */
export function KeptInput({
  value,
  onKeep,
  clears = false,
  className,
  ...rest
}: {
  value: string;
  onKeep: (value: string) => void;
  /** A field that only takes something in: it is empty again afterwards. */
  clears?: boolean;
} & Omit<InputHTMLAttributes<HTMLInputElement>, 'value' | 'onChange'>) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const keep = (): void => {
    if (text.trim() === value) return;
    onKeep(text.trim());
    if (clears) setText(value);
  };
  return (
    <input
      {...rest}
      className={clsx(inputLook, className)}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === 'Enter') e.currentTarget.blur();
        if (e.key === 'Escape') {
          setText(value);
          e.stopPropagation();
          requestAnimationFrame(() => (e.target as HTMLInputElement).blur());
        }
      }}
    />
  );
}

export interface Option<T extends string> {
  value: T;
  label: string;
}

const SHORT = 24;

export function Select<T extends string>({
  value,
  options,
  onChange,
  label,
  className,
}: {
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
  label: string;
  className?: string;
}) {
  const [open, setOpen] = useState(false);
  // entries are drawn while the list is closed, too, so that letters typed then choose one: of a long list that costs too much
  const listed = open || options.length <= SHORT;
  return (
    <Radix.Root value={value} onValueChange={(v) => onChange(v as T)} open={open} onOpenChange={setOpen}>
      <Radix.Trigger
        aria-label={label}
        className={clsx(
          'inline-flex items-center justify-between gap-2 rounded-md border border-line bg-raised px-2.5 py-1 text-left hover:border-muted',
          className,
        )}
      >
        <span className="truncate">
          <Radix.Value>{options.find((o) => o.value === value)?.label}</Radix.Value>
        </span>
        <ChevronDown size={13} className="shrink-0 text-muted" />
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          position="popper"
          sideOffset={4}
          className="z-50 max-h-80 min-w-(--radix-select-trigger-width) overflow-hidden rounded-md border border-line bg-raised shadow-xl"
        >
          <Radix.Viewport className="p-1">
            {(listed ? options : []).map((o) => (
              <Radix.Item
                key={o.value}
                value={o.value}
                className="flex items-center gap-2 rounded px-2 py-1 outline-none select-none data-highlighted:bg-panel data-highlighted:text-brass-text"
              >
                <Radix.ItemText>{o.label}</Radix.ItemText>
                <Radix.ItemIndicator className="ml-auto">
                  <Check size={13} />
                </Radix.ItemIndicator>
              </Radix.Item>
            ))}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

function Switch({
  id,
  checked,
  onChange,
  label,
}: {
  id: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  label: string;
}) {
  return (
    <button
      id={id}
      type="button"
      role="switch"
      aria-checked={checked}
      aria-label={label}
      onClick={() => onChange(!checked)}
      className={clsx(
        'relative h-5 w-9 shrink-0 rounded-full border transition-colors',
        checked ? 'border-brass bg-brass' : 'border-muted bg-transparent',
      )}
    >
      <span
        className={clsx(
          'absolute top-0.5 size-3.5 rounded-full transition-[left]',
          checked ? 'left-[1.2rem] bg-brass-ink' : 'left-0.5 bg-muted',
        )}
      />
    </button>
  );
}

/** A switch whose words can be clicked too. */
export function SwitchRow({ children, ...rest }: Omit<ComponentProps<typeof Switch>, 'id'> & { children?: ReactNode }) {
  const id = useId();
  return (
    <div className="flex min-h-7 shrink-0 items-center justify-between gap-3">
      <label htmlFor={id} className={clsx('flex-1 cursor-pointer', !children && 'text-muted')}>
        {children ?? rest.label}
      </label>
      <Switch id={id} {...rest} />
    </div>
  );
}
