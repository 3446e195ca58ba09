'use client';
import { useRef, type ReactNode } from 'react';
import { Button, type ButtonKind } from './button';

/** A button that asks for files, and the field that takes them. */
export function FileButton({
  label,
  accept,
  onFiles,
  multiple = false,
  kind,
  className,
  children,
}: {
  /** Name of the field. */
  label: string;
  accept: readonly string[];
  /** Called with at least one file. */
  onFiles: (files: File[]) => void;
  multiple?: boolean;
  kind?: ButtonKind;
  className?: string;
  children: ReactNode;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...(kind && { kind })} {...(className && { className })} onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label={label}
        accept={accept.join()}
        multiple={multiple}
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          // the same file may be chosen again
          e.target.value = '';
          if (files.length > 0) onFiles(files);
        }}
      />
    </>
  );
}
