import { Range } from "../controls/Range";
import { set, usePage } from "../state/store";

/** The list of sheets, as a line in the section Land. */
export function SurveyChoice() {
  const sheets = usePage((s) => s.catalogue!.sheets);
  const sheet = usePage((s) => s.sheet);
  const lay = (kind: string) =>
    set((s) => ({
      sheet: kind ? { kind, latitude: s.sheet?.latitude ?? 50, day: s.sheet?.day ?? 172 } : null,
    }));
  return (
    <div className="mt-2 border-t border-rule pt-1" data-survey>
      <label className="flex items-center justify-between gap-2">
        <span className="font-semibold">Survey sheet</span>
        <select
          className="text max-w-[180px]"
          aria-label="Survey sheet"
          value={sheet && sheet.kind !== "shows" && sheet.kind !== "difference" ? sheet.kind : ""}
          onChange={(e) => lay(e.target.value)}
        >
          <option value="">none laid out</option>
          {sheets.map((x) => (
            <option key={x.kind} value={x.kind}>
              {x.label}
            </option>
          ))}
        </select>
      </label>
      {sheet?.kind === "sunlit" && (
        <>
          <Range
            label="Latitude"
            value={sheet.latitude}
            unit="°"
            min={-90}
            max={90}
            low={-90}
            high={90}
            log={false}
            step={1}
            onDrag={() => {}}
            onKeep={(v) => set({ sheet: { ...sheet, latitude: v } })}
          />
          <Range
            label="Day of the year"
            value={sheet.day}
            unit=""
            min={1}
            max={366}
            low={1}
            high={365}
            log={false}
            step={1}
            onDrag={() => {}}
            onKeep={(v) => set({ sheet: { ...sheet, day: Math.round(v) } })}
          />
        </>
      )}
    </div>
  );
}
