import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import { SheetBox } from "../controls/SheetBox";
import { shown } from "../document/numbers";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

interface Near {
  id: string;
  nearest_m: number | null;
  shot: string;
  element_mm: number;
  texel_mm: number;
  needs: number;
  megabytes: number;
  verdict: string;
}

/** What the shots come near to, and what that asks of each texture. */
export function TextureSizes() {
  const doc = usePage((s) => s.doc)!;
  const [wide, setWide] = useState(1920);
  const [list, setList] = useState<Near[] | null>(null);
  useEffect(() => {
    const halt = new AbortController();
    setList(null);
    calls
      .textureNearness(get().id!, { document: get().doc, wide_px: wide }, halt.signal)
      .then(setList)
      .catch((e) => {
        if (!halt.signal.aborted) {
          tell(e);
          set({ dialog: null });
        }
      });
    return () => halt.abort();
  }, [wide]);
  const size = (mm: number) => (mm >= 10 ? `${shown(mm / 10)} cm` : `${shown(mm)} mm`);
  return (
    <SheetBox title="Texture sizes by nearness" wide={720}>
      <p className="mb-1">
        For a still{" "}
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
        : the finest picture element that a shot sees of each material, and the texel that its
        texture has.
      </p>
      {!list ? (
        <p className="text-soft">measuring…</p>
      ) : (
        <table className="w-full text-left" data-nearness>
          <thead>
            <tr className="border-b border-ink text-soft">
              <th>Material</th>
              <th>Nearest</th>
              <th>Element</th>
              <th>Texel</th>
              <th>Needs</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {list.map((n) => {
              const m = doc.ground.find((g) => g.id === n.id)!;
              return (
                <tr key={n.id} className="border-b border-rule">
                  <td>
                    <button
                      className="underline"
                      onClick={() => set({ dialog: null, open: "ground", chosen: n.id })}
                    >
                      {m.name}
                    </button>
                  </td>
                  <td>{n.nearest_m === null ? "" : `${shown(n.nearest_m)} m, ${n.shot}`}</td>
                  <td>{n.nearest_m === null ? "" : size(n.element_mm)}</td>
                  <td>{size(n.texel_mm)}</td>
                  <td>{n.nearest_m === null ? "" : `${n.needs} px, ${shown(n.megabytes)} MB`}</td>
                  <td
                    className={
                      n.verdict === "blurs"
                        ? "text-rust"
                        : n.verdict === "fits"
                          ? "text-moss"
                          : "text-soft"
                    }
                  >
                    {n.verdict === "blurs"
                      ? `blurs: at most ${shown((m.size_m * n.element_mm) / n.texel_mm)} m a ` +
                        "repeat is sharp"
                      : n.verdict}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {!doc.shots.length && <p className="text-soft">Keep a shot first: what it sees decides.</p>}
    </SheetBox>
  );
}
