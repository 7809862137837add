/** An error: what is wrong, where, and what to do. */
export function FaultNote({ error }: { error: Error | null | undefined }) {
  if (!error) return null;
  return (
    <div className="fault" role="alert">
      {error.message.charAt(0).toUpperCase() + error.message.slice(1)}.
    </div>
  );
}
