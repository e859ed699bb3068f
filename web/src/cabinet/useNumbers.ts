import { usePage } from "../state/store";

export function useNumbers(): Map<string, number> {
  const doc = usePage((s) => s.doc);
  const manifest = usePage((s) => s.manifest);
  const out = new Map<string, number>();
  for (const s of doc?.planting ?? [])
    s.mix.forEach((p, i) =>
      out.set(
        p.kind,
        (out.get(p.kind) ?? 0) + (manifest?.sown.find((x) => x.id === s.id)?.counts[i] ?? 0),
      ),
    );
  for (const p of doc?.pieces ?? []) out.set(p.kind, (out.get(p.kind) ?? 0) + 1);
  return out;
}
