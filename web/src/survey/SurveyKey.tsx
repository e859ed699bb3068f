import { shown } from "../document/numbers";
import { set, usePage } from "../state/store";

const PALE = [232, 224, 205];
const DARK = [36, 64, 78];

/** The ink of a share 0..1 of the sheet's range. */
function ink(share: number): string {
  const tone = PALE.map((pale, n) => Math.round(pale + (DARK[n] - pale) * share));
  return `rgb(${tone.join(" ")})`;
}

/** The key of the sheet that is laid out: its wash, its histogram, its ends. */
export function SurveyKey() {
  const sheet = usePage((s) => s.sheet);
  const a = sheet?.answer;
  const place = usePage((s) => s.place);
  const products = usePage((s) => s.products);
  if (!sheet) return null;
  const top = Math.max(...(a?.bins ?? [1]), 1e-6);
  const f = products?.field;
  const here =
    place && f && sheet.values?.length === f.values.length
      ? sheet.values[
          Math.round(f.ny - 1 - place.north / f.spacing) * f.nx + Math.round(place.east / f.spacing)
        ]
      : null;
  return (
    <div className="w-[218px] border border-ink bg-paper/95 px-3 pt-1 pb-2" data-survey-key>
      <div className="flex items-baseline justify-between">
        <b className="font-show">{a?.label ?? "measuring…"}</b>
        <button className="text-soft underline" onClick={() => set({ sheet: null })}>
          put away
        </button>
      </div>
      {a && (
        <>
          <svg viewBox="0 0 192 34" className="block h-[34px] w-full" preserveAspectRatio="none">
            {a.bins.map((b, i) => (
              <rect
                key={i}
                x={i * 3}
                width="3"
                y={34 - 33 * Math.sqrt(b / top)}
                height="34"
                fill={ink(i / 63)}
                stroke="#23302b"
                strokeWidth="0.15"
              />
            ))}
          </svg>
          <div className="flex justify-between text-[11.5px]">
            <span>{shown(a.low)}</span>
            <span className="text-soft">
              {here !== null && here !== undefined
                ? `here ${shown(here)}`
                : `mean ${shown(a.mean)}`}
            </span>
            <span>
              {shown(a.high)} {a.unit}
            </span>
          </div>
          <p className="text-[11px] leading-tight text-soft">{a.help}</p>
        </>
      )}
    </div>
  );
}
