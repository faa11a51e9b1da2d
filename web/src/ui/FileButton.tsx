import { type ReactNode, useRef } from "react";

interface Props {
  /** What stands on the button, and how its field is called. */
  children: ReactNode;
  label: string;
  accept: string;
  className?: string;
  title?: string;
  disabled?: boolean;
  autoFocus?: boolean;
  onChoose: (file: File) => void;
}

/** A button that lets a file be chosen: the same one again, too, for it may have been mended meanwhile. */
export function FileButton({ children, label, accept, className = "button", onChoose, ...rest }: Props) {
  const field = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className={className} onClick={() => field.current?.click()} {...rest}>
        {children}
      </button>
      <input
        ref={field}
        type="file"
        hidden
        aria-label={label}
        accept={accept}
        onChange={({ currentTarget }) => {
          const [file] = currentTarget.files ?? [];
          currentTarget.value = "";
          if (file) onChoose(file);
        }}
      />
    </>
  );
}
