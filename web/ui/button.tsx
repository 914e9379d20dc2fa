'use client';

import { clsx } from 'clsx';
import type { ButtonHTMLAttributes, ReactNode } from 'react';
import { Hint } from './hint';

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: 'plain' | 'brass' | 'quiet';
  /** medium where it stands alone; small in rows of controls; tiny within a line of text. */
  size?: 'medium' | 'small' | 'tiny';
  /** What it does, for the tooltip; left out where the words on it say it all. */
  hint?: string;
  keys?: string;
}

const SIZES = { medium: 'px-3 py-1.5', small: 'px-2 py-0.5', tiny: 'px-2 py-0' } as const;

export function Button({
  look = 'plain',
  size = 'medium',
  hint,
  keys,
  className,
  type = 'button',
  ...rest
}: ButtonProps) {
  const button = (
    <button
      type={type}
      className={clsx(
        'inline-flex items-center justify-center gap-1.5 rounded-md border font-medium whitespace-nowrap transition-colors duration-100 disabled:cursor-not-allowed disabled:opacity-45',
        SIZES[size],
        look === 'brass' && 'border-brass bg-brass text-brass-ink hover:brightness-110',
        look === 'plain' && 'border-line bg-raised hover:border-muted',
        look === 'quiet' && 'border-transparent text-muted hover:bg-raised hover:text-ink',
        className,
      )}
      {...rest}
    />
  );
  return hint || keys ? (
    <Hint text={hint ?? String(rest['aria-label'] ?? '')} keys={keys}>
      {button}
    </Hint>
  ) : (
    button
  );
}

interface IconButtonProps {
  label: string;
  keys?: string;
  onClick: () => void;
  disabled?: boolean;
  quiet?: boolean;
  pressed?: boolean;
  children: ReactNode;
}

export function IconButton({ label, keys, onClick, disabled, quiet, pressed, children }: IconButtonProps) {
  return (
    <Hint text={label} keys={keys}>
      <button
        type="button"
        aria-label={label}
        aria-pressed={pressed}
        onClick={onClick}
        disabled={disabled}
        className={clsx(
          'inline-flex size-7 items-center justify-center rounded-md transition-colors duration-100 disabled:cursor-not-allowed disabled:opacity-45',
          quiet ? 'hover:bg-raised' : 'border border-line bg-raised hover:border-muted',
          pressed ? 'text-brass-text' : quiet ? 'text-muted' : 'text-ink',
        )}
      >
        {children}
      </button>
    </Hint>
  );
}
