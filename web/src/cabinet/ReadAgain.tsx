import { useRef } from "react";
import type { KindFacts, KindLine } from "../api/shapes";
import { chooseAgain, giveAgain, type Replaced } from "./ownModels";

/** Reads a kind's file again after it was changed outside. */
export function ReadAgain({ line, facts }: { line: KindLine; facts: KindFacts }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button
        className="btn"
        data-read-again
        title="After the file was changed outside; what was set of its surfaces stays"
        onClick={() =>
          void chooseAgain(line, facts).then((done) => {
            if (!done) input.current?.click();
          })
        }
      >
        Read its file again…
      </button>
      <input
        ref={input}
        type="file"
        multiple
        accept=".glb,.obj,.mtl,.png,.jpg,.jpeg"
        className="hidden"
        data-again-files
        onChange={(e) => {
          giveAgain(line, facts, [...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
    </>
  );
}

/** What reading the file again replaced. */
export function ReplacedTable({ rows }: { rows: Replaced[] }) {
  return (
    <table className="mt-2 w-full border-y border-rule text-[12px]" data-replaced>
      <thead className="text-left text-soft">
        <tr>
          <th className="font-normal">replaced</th>
          <th className="font-normal">before</th>
          <th className="font-normal">now</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.what}>
            <td>{row.what}</td>
            <td>{row.before}</td>
            <td className={row.before === row.now ? "" : "text-moss"}>{row.now}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
