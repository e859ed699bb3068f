import { usePage } from "../../state/store";

/** What the last build missed at a place of the document. */
export function Lacking({ path }: { path: string }) {
  const message = usePage((s) => s.manifest?.lacking.find((l) => l.path === path)?.message);
  return message ? (
    <p className="text-[12px] text-rust" data-lacking>
      {message}
    </p>
  ) : null;
}
