import { useCallback, useEffect, useRef, useState } from "react";
import { compare } from "../actions/compare";
import { PARTS, takePart } from "../actions/parts";
import * as calls from "../api/calls";
import type { Step, UsageAnswer } from "../api/shapes";
import * as urls from "../api/urls";
import { SheetBox } from "../controls/SheetBox";
import { shownBytes } from "../document/numbers";
import { goTo } from "../state/edits";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

const capital = (text: string) => text.replace(/^./, (c) => c.toUpperCase());
const partName = (part: string) => PARTS.find((p) => p[0] === part)![1];

export function HistorySheet() {
  const [list, setList] = useState<Step[]>([]);
  const [more, setMore] = useState(true);
  const [named, setNamed] = useState(false);
  const state = usePage((s) => s.state)!;
  const [at, setAt] = useState<number>(state.revision);
  const [use, setUse] = useState<UsageAnswer | null>(null);
  const [keep, setKeep] = useState(200);
  const [name, setName] = useState("");
  const [note, setNote] = useState("");
  const [part, setPart] = useState("land");
  const top = useRef<HTMLDivElement>(null);
  const load = useCallback(
    async (before?: number) => {
      try {
        const rows = await calls.historyOf(get().id!, {
          ...(before ? { before: String(before) } : {}),
          ...(named ? { snapshots: "1" } : {}),
        });
        setList((l) => (before ? [...l, ...rows] : rows));
        setMore(rows.length === 60);
      } catch (e) {
        tell(e);
      }
    },
    [named],
  );
  const measure = () => calls.historyUsage(get().id!).then(setUse).catch(tell);
  useEffect(() => {
    void load();
    void measure();
  }, [state.revision, load]);
  useEffect(() => setAt(state.revision), [state.revision]);
  const now = list.find((s) => s.id === at) ?? list[0];
  useEffect(() => {
    setName(now?.snapshot ?? "");
    setNote(now?.note ?? "");
  }, [now?.id, now?.snapshot, now?.note]);
  const keepName = () =>
    now &&
    void calls
      .keepSnapshot(get().id!, {
        revision: now.id,
        name: name.trim(),
        note: note.trim(),
      })
      .then(() => load())
      .catch(tell);
  const time = (s: Step) =>
    new Date(s.made).toLocaleTimeString("en-GB", {
      hour: "2-digit",
      minute: "2-digit",
      second: "2-digit",
    });
  const day = (s: Step) =>
    new Date(s.made).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
  return (
    <SheetBox title="History" wide={800}>
      <div className="grid grid-cols-[1fr_290px] gap-4">
        <div>
          <div className="mb-1 flex items-baseline justify-between">
            <span className="text-soft">
              Every step is kept, also those that were left for another course.
            </span>
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                className="accent-moss"
                checked={named}
                onChange={(e) => setNamed(e.target.checked)}
              />
              snapshots only
            </label>
          </div>
          <div
            ref={top}
            className="h-[56vh] overflow-auto border-y border-rule"
            role="listbox"
            aria-label="Steps"
          >
            {list.map((s, i) => (
              <div key={s.id}>
                {(i === 0 || day(s) !== day(list[i - 1])) && (
                  <div className="bg-paper2 px-1 text-[11.5px] text-soft">{day(s)}</div>
                )}
                <button
                  role="option"
                  aria-selected={s.id === at}
                  data-step={s.id}
                  className={
                    "flex w-full items-center gap-2 border-b border-rule/60 py-[2px] pr-1 " +
                    `text-left hover:bg-paper2 ${s.id === at ? "bg-paper2" : ""}`
                  }
                  onClick={() => setAt(s.id)}
                  onDoubleClick={() => void goTo(s.id)}
                >
                  <svg width="26" height="40" className="shrink-0" aria-hidden>
                    {s.current ? (
                      <>
                        <path d="M8 0V40" stroke="#23302b" strokeWidth="1.6" />
                        <circle
                          cx="8"
                          cy="20"
                          r={s.id === state.revision ? 5 : 3.2}
                          fill={s.id === state.revision ? "#4d6a3a" : "#f4efe4"}
                          stroke={s.id === state.revision ? "#4d6a3a" : "#23302b"}
                          strokeWidth="1.5"
                        />
                      </>
                    ) : (
                      <>
                        <path d="M8 0V40" stroke="#23302b" strokeWidth="1.6" />
                        <path
                          d="M18 0V40"
                          stroke="#9a8f78"
                          strokeWidth="1.4"
                          strokeDasharray="3 3"
                        />
                        <circle
                          cx="18"
                          cy="20"
                          r="3.2"
                          fill="#f4efe4"
                          stroke={s.id === state.revision ? "#4d6a3a" : "#9a8f78"}
                          strokeWidth="1.5"
                        />
                      </>
                    )}
                  </svg>
                  <img
                    src={urls.revisionPicture(get().id!, s.id)}
                    loading="lazy"
                    alt=""
                    width={50}
                    height={38}
                    className={
                      "h-[38px] w-[50px] shrink-0 border border-ink bg-[#e6dfce] " + "object-cover"
                    }
                  />
                  <span className="min-w-0 grow leading-tight">
                    {s.snapshot && <b className="block truncate text-[#7c520f]">{s.snapshot}</b>}
                    <span
                      className={
                        "block truncate " +
                        (s.id === state.revision ? "font-semibold text-moss" : "")
                      }
                    >
                      {s.label}
                    </span>
                  </span>
                  <span className="text-[11.5px] text-soft">{time(s)}</span>
                </button>
              </div>
            ))}
            {more && list.length > 0 && (
              <button className="btn m-1" onClick={() => void load(list[list.length - 1].id)}>
                Older steps…
              </button>
            )}
            {!list.length && (
              <p className="p-2 text-soft">
                {named ? "No snapshot yet: choose a step, give it a name and keep it." : "…"}
              </p>
            )}
          </div>
        </div>
        <div className="flex flex-col gap-2">
          {now && (
            <>
              <img
                src={urls.revisionPicture(get().id!, now.id)}
                alt={`Picture of ${now.label}`}
                className="h-[150px] w-full border border-ink bg-[#e6dfce] object-cover"
              />
              <div className="leading-tight">
                <b>{now.label}</b>
                <div className="text-[11.5px] text-soft">
                  {day(now)}, {time(now)}
                  {now.id === state.revision
                    ? " · you are here"
                    : now.current
                      ? ""
                      : " · of a course that was left"}
                </div>
              </div>
              <div className="flex flex-wrap gap-1">
                <button
                  className="btn do"
                  data-go
                  disabled={now.id === state.revision}
                  onClick={() => void goTo(now.id)}
                >
                  Go there
                </button>
                <button
                  className="btn"
                  data-compare
                  disabled={now.id === state.revision}
                  onClick={() =>
                    void compare(
                      { id: now.id, label: now.snapshot || now.label },
                      { id: state.revision, label: "now" },
                    )
                  }
                >
                  Compare with now
                </button>
              </div>
              <div className="border-t border-rule pt-1">
                <input
                  className="text w-full"
                  placeholder="name it, such as: before the snow"
                  aria-label="Name of the snapshot"
                  value={name}
                  maxLength={80}
                  onChange={(e) => setName(e.target.value)}
                />
                <textarea
                  className="text mt-1 h-[44px] w-full resize-none"
                  placeholder="a note"
                  aria-label="Note"
                  value={note}
                  maxLength={2000}
                  onChange={(e) => setNote(e.target.value)}
                  onKeyDown={(e) => e.stopPropagation()}
                />
                <button
                  className="btn"
                  disabled={
                    (name.trim() === (now.snapshot ?? "") && note.trim() === now.note) ||
                    (!name.trim() && !now.snapshot)
                  }
                  onClick={keepName}
                >
                  {name.trim() || !now.snapshot ? "Keep as snapshot" : "No snapshot any more"}
                </button>
              </div>
              <div className="flex items-center gap-1 border-t border-rule pt-1">
                <span className="shrink-0">Bring</span>
                <select
                  className="text min-w-0 grow"
                  aria-label="Part to bring into now"
                  value={part}
                  onChange={(e) => setPart(e.target.value)}
                >
                  {PARTS.map(([k, l]) => (
                    <option key={k} value={k}>
                      {l}
                    </option>
                  ))}
                </select>
                <button
                  className="btn"
                  data-bring
                  disabled={now.id === state.revision}
                  onClick={() =>
                    void takePart(
                      { revision: now.id, part },
                      `${capital(partName(part))} of “${(now.snapshot || now.label).slice(0, 60)}”`,
                    )
                  }
                >
                  into now
                </button>
              </div>
            </>
          )}
          {use && (
            <div className="mt-auto border-t border-rule pt-1 text-[12px]">
              <div className="text-soft" data-usage>
                {use.revisions} steps, {use.snapshots} snapshots: {shownBytes(use.documents)} of
                documents, {shownBytes(use.rasters)} of rasters; the whole store{" "}
                {shownBytes(use.database)}
              </div>
              <div className="mt-1 flex items-center gap-1">
                Keep the newest
                <input
                  className="num w-[6ch]"
                  aria-label="Steps to keep"
                  value={keep}
                  onChange={(e) => setKeep(Math.max(1, Math.round(+e.target.value) || 1))}
                />
                <button
                  className="btn"
                  data-prune
                  disabled={use.revisions <= keep}
                  onClick={() =>
                    set({
                      confirm: {
                        text:
                          `All steps but the newest ${keep}, the snapshots and where you are ` +
                          "go for good.",
                        yes: () => {
                          void calls
                            .pruneHistory(get().id!, {
                              keep,
                            })
                            .then((u) => {
                              setUse(u);
                              set({ told: `${use.revisions - u.revisions} steps pruned.` });
                              void load();
                            })
                            .catch(tell);
                        },
                      },
                    })
                  }
                >
                  Prune…
                </button>
              </div>
            </div>
          )}
        </div>
      </div>
    </SheetBox>
  );
}
