import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { ReasonLine } from "../api/shapes";
import { type ListName, listOf } from "../document/lists";
import { shown } from "../document/numbers";
import type { Section } from "../document/sections";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

type Reason = ReasonLine;
type Verdict = Reason["verdicts"][number];

/**
 * Beside the face while it is asked: each material and sowing at the pinned place, and the
 * condition that decides.
 */
/** What was measured, and what the band asks where it lies outside. */
function asks(v: Verdict): string {
  if (v.value === null) return "";
  const measured = ` ${shown(v.value)} ${v.unit}`;
  if (v.low !== null && v.value < v.low) return `${measured}, asks from ${shown(v.low)}`;
  if (v.high !== null && v.value > v.high) return `${measured}, asks up to ${shown(v.high)}`;
  return measured;
}

export function WhyHere() {
  const conditions = usePage((s) => s.catalogue!.conditions);
  const on = usePage((s) => s.why);
  const place = usePage((s) => (s.pinned ? s.place : null));
  const products = usePage((s) => s.products);
  const [found, setFound] = useState<Reason[] | null>(null);
  const east = place?.east;
  const north = place?.north;
  useEffect(() => {
    if (!on || east === undefined || north === undefined || !products) {
      setFound(null);
      return;
    }
    const halt = new AbortController();
    calls
      .whyHere(get().id!, { document: get().doc, east, north }, halt.signal)
      .then((r) => !halt.signal.aborted && setFound(r))
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [on, east, north, products]);
  if (!on) return null;
  const entry = (r: Reason) =>
    listOf(get().doc!, r.list as ListName)[r.index] as { name: string } | undefined;
  const go = (r: Reason, v: Verdict) => {
    set({ chosen: r.id, open: r.list as Section });
    setTimeout(() => {
      const rule = document.querySelectorAll<HTMLElement>(`[data-entry="${r.id}"] [data-where]`)[
        v.index
      ];
      rule?.scrollIntoView({ block: "center" });
      (
        rule?.querySelector<HTMLElement>("[role=slider]") ??
        rule?.querySelector<HTMLElement>("select") ??
        rule?.querySelector<HTMLElement>("input")
      )?.focus();
    }, 120);
  };
  const labels = new Map(conditions.map((c) => [c.kind, c.label]));
  const say = (v: Verdict) => v.absent || `${labels.get(v.kind) ?? v.kind}${asks(v)}`;
  return (
    <div
      className={
        "absolute top-12 right-3 max-h-[calc(100%-120px)] w-[300px] overflow-auto " +
        "border border-ink bg-paper/95 px-3 pt-1 pb-2"
      }
      data-why
    >
      <div className="flex items-baseline justify-between">
        <b className="font-show">Why here?</b>
        <button className="text-soft underline" onClick={() => set({ why: false })}>
          put away
        </button>
      </div>
      {!place ? (
        <p className="text-soft">Click the ground.</p>
      ) : !found ? (
        <p className="text-soft">asking…</p>
      ) : (
        (["ground", "planting"] as const).map((list) => (
          <div key={list}>
            {found.some((r) => r.list === list) && (
              <div className="mt-1 border-t border-rule text-soft">
                {list === "ground" ? "Ground" : "Planting: part of the wished density"}
              </div>
            )}
            {found
              .filter((r) => r.list === list)
              .sort((a, b) => b.share - a.share)
              .map((r) => (
                <div key={r.id} className={r.share < 0.02 ? "text-soft" : ""} data-reason={r.id}>
                  <div className="flex justify-between">
                    <b className="truncate font-normal">{entry(r)?.name}</b>
                    <span>{Math.round(r.share * 100)} %</span>
                  </div>
                  <i
                    className="block h-[2px] bg-moss"
                    style={{ width: `${Math.min(100, r.share * 100)}%` }}
                  />
                  <div className="flex flex-wrap gap-x-2 text-[11.5px]">
                    {r.note && <span>{r.note}</span>}
                    {r.verdicts.map((v) => (
                      <button
                        key={v.index}
                        className={
                          "text-left underline decoration-dotted " +
                          `${v.index === r.decides || v.absent ? "text-rust" : ""}`
                        }
                        data-verdict={v.kind}
                        onClick={() => go(r, v)}
                      >
                        {say(v)}
                        {v.absent
                          ? ""
                          : v.answer > 0.98
                            ? " ✓"
                            : v.answer < 0.02
                              ? " ✗"
                              : `: ${Math.round(v.answer * 100)} %`}
                      </button>
                    ))}
                  </div>
                </div>
              ))}
          </div>
        ))
      )}
    </div>
  );
}
