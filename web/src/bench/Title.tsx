interface TitleProps {
  label: string;
  title: string;
  onRename: ((label: string) => void) | undefined;
}

/** The module's name, changed where it stands. */
export function Title({ label, title, onRename }: TitleProps) {
  const look = "font-read text-head leading-tight font-semibold";
  if (!onRename) return <h2 className={look}>{title}</h2>;
  const commit = (text: string) => {
    if (text !== title && text !== label) onRename(text);
  };
  return (
    <h2 className={look}>
      <input
        aria-label="Name"
        defaultValue={title}
        maxLength={60}
        className="w-full rounded-sm bg-transparent hover:bg-this/5 focus:bg-leaf"
        onBlur={(event) => commit(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") {
            event.currentTarget.value = title;
            event.currentTarget.blur();
          }
        }}
      />
    </h2>
  );
}
