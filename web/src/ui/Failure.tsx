/** What could not be done, if something could not. */
export function Failure({ said, className = "" }: { said: string | undefined; className?: string }) {
  if (said === undefined) return null;
  return (
    <p role="alert" className={`${className} text-warn`}>
      {said}
    </p>
  );
}
