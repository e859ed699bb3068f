import { set, usePage } from "../state/store";

export function TroubleNote() {
  const t = usePage((s) => s.trouble)!;
  const lost = usePage((s) => s.lost);
  return (
    <div
      role="alert"
      className={
        "absolute right-3 bottom-3 w-[370px] border-[1.5px] border-rust bg-paper " +
        "px-3 py-2 shadow-[3px_3px_0_#a3432a33]"
      }
    >
      <div className="flex justify-between">
        <b className="text-rust">{t.title}</b>
        {!lost && (
          <button className="text-soft underline" onClick={() => set({ trouble: null })}>
            put away
          </button>
        )}
      </div>
      <p>{t.detail}</p>
      {t.advice && <p className="text-soft">{t.advice}</p>}
      {t.path && <p className="text-[11.5px] text-soft">at {t.path}</p>}
      {!lost && t.status !== 409 && <p className="text-[11.5px] text-soft">Nothing was changed.</p>}
    </div>
  );
}
