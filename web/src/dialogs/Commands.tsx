import { useState } from "react";
import { ACTIONS } from "../actions/commands";
import { SheetBox } from "../controls/SheetBox";
import { set } from "../state/store";

export function Commands() {
  const [text, setText] = useState("");
  const [now, setNow] = useState(0);
  const found = ACTIONS.filter(
    (a) =>
      a.name.toLowerCase().includes(text.toLowerCase()) &&
      a.id !== "commands" &&
      (!a.can || a.can()),
  );
  const run = (i: number) => {
    const a = found[i];
    if (a) {
      set({ dialog: null });
      a.run();
    }
  };
  return (
    <SheetBox title="Find a command">
      <input
        className="text w-full"
        data-finder
        autoFocus
        placeholder="what do you want to do?"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setNow(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") {
            e.preventDefault();
            setNow(Math.min(now + 1, found.length - 1));
          }
          if (e.key === "ArrowUp") {
            e.preventDefault();
            setNow(Math.max(0, now - 1));
          }
          if (e.key === "Enter") run(now);
        }}
      />
      <div className="menu mt-2 max-h-[46vh]! border-0! shadow-none!">
        {found.map((a, i) => {
          const Icon = a.icon;
          return (
            <button key={a.id} className={`line ${i === now ? "now" : ""}`} onClick={() => run(i)}>
              {Icon ? <Icon size={14} /> : <i className="w-[14px]" />}
              <span className="grow">{a.name}</span>
              <span className="text-soft">{a.keys}</span>
            </button>
          );
        })}
      </div>
    </SheetBox>
  );
}
