import { capital } from './words';

/** An error: what is wrong, where, and what to do. */
export function FaultNote({ error }: { error: Error | null | undefined }) {
  if (!error) return null;
  return (
    <div className="fault" role="alert">
      {capital(error.message)}.
    </div>
  );
}
