import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { KindNearLine } from "../api/shapes";
import * as urls from "../api/urls";
import { shown } from "../document/numbers";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

/**
 * Kinds of this scene with how near the shots come, the level that this calls for, and what it
 * costs.
 */
export function UsedDrawer({ numbers }: { numbers: Map<string, number> }) {
  const id = usePage((s) => s.id);
  const revision = usePage((s) => s.state?.revision);
  const kinds = usePage((s) => s.cabinet!.kinds);
  const [wide, setWide] = useState(1920);
  const [list, setList] = useState<KindNearLine[] | null>(null);
  useEffect(() => {
    const halt = new AbortController();
    setList(null);
    calls
      .kindsNear(id!, { document: get().doc, wide_px: wide }, halt.signal)
      .then(setList)
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [id, revision, wide]);
  const lines =
    list ??
    [...numbers].map(([kind, number]) => ({
      kind,
      number,
      nearest_m: null,
      shot: "",
      pixels: 0,
      level: 0,
      triangles: 0,
      most: 0,
      drawn: 0,
      verdict: "measuring…",
    }));
  return (
    <div className="min-h-0 overflow-y-auto px-3 py-2">
      <p className="mb-1">
        How near the shots come, for a still{" "}
        <select
          className="text"
          aria-label="Width of the still"
          value={wide}
          onChange={(e) => setWide(+e.target.value)}
        >
          {[1280, 1920, 3840, 7680].map((w) => (
            <option key={w} value={w}>
              {w} px wide
            </option>
          ))}
        </select>
      </p>
      <table className="w-full text-left text-[12px]" data-kinds-near={list?.length ?? 0}>
        <thead>
          <tr className="border-b border-ink text-soft">
            <th />
            <th>Kind</th>
            <th className="text-right">Stand</th>
            <th className="pl-3">Nearest</th>
            <th>Tall there</th>
            <th>Level: triangles</th>
            <th className="text-right">In a shot</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((n) => {
            const k = kinds.find((x) => x.name === n.kind);
            return (
              <tr key={n.kind} className="border-b border-rule/60">
                <td>
                  <img
                    src={urls.kindPicture(n.kind)}
                    alt=""
                    className="h-[26px] w-[30px] object-contain"
                  />
                </td>
                <td>
                  <button
                    className="underline"
                    onClick={() => set({ cabinetAt: { drawer: "used", kind: n.kind } })}
                  >
                    {k?.label ?? n.kind}
                  </button>
                </td>
                <td className="text-right">{n.number.toLocaleString("en")}</td>
                <td className="pl-3">
                  {n.nearest_m === null ? (
                    <span className="text-soft">{n.verdict}</span>
                  ) : (
                    <>
                      {shown(n.nearest_m)} m <small className="text-soft">{n.shot}</small>
                    </>
                  )}
                </td>
                <td className="pr-3 whitespace-nowrap">
                  {n.nearest_m === null ? "" : `${n.pixels.toLocaleString("en")} px`}
                </td>
                <td>
                  {n.nearest_m === null
                    ? ""
                    : `${n.level + 1}: ${n.triangles.toLocaleString("en")}`}
                  {n.nearest_m !== null && n.verdict !== "fits" && (
                    <span className={n.verdict.startsWith("a finer") ? "text-rust" : "text-soft"}>
                      {" "}
                      {n.verdict}
                    </span>
                  )}
                </td>
                <td className="text-right">{n.drawn ? n.drawn.toLocaleString("en") : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
