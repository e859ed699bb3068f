import { Component, type ReactNode } from "react";
import { createRoot } from "react-dom/client";
import * as calls from "./api/calls";
import type { Catalogue } from "./api/shapes";
import { Sheet } from "./Sheet";
import { openScene } from "./state/opening";
import { get, set } from "./state/store";
import { tell } from "./state/trouble";
import "./style.css";

/** A fault of the page itself never leaves it blank: the work is in the store. */
class Guard extends Component<{ children: ReactNode }, { fault: Error | null }> {
  state = { fault: null as Error | null };
  static getDerivedStateFromError(fault: Error) {
    return { fault };
  }
  render() {
    return this.state.fault ? <Fault message={this.state.fault.message} /> : this.props.children;
  }
}

function Fault({ message }: { message: string }) {
  return (
    <div className="sheetbox w-[420px]" role="alert">
      <h2 className="font-show text-[18px] italic">The page has a fault</h2>
      <p className="my-2">{message}</p>
      <p>Everything marked as kept is in the store.</p>
      <button className="btn do mt-3" onClick={() => location.reload()}>
        Reload
      </button>
    </div>
  );
}

/** What is said of files of SOW_EXTRA that could not be had. */
function leftOut(catalogue: Catalogue): string | null {
  const lines = catalogue.left_out.map((x) => `${x.file} was left out: ${x.message}`);
  return lines.length ? `${lines.join(" ")} Everything else works.` : null;
}

/** The scene that the address names, else the newest; the sheet for a new one if there is none. */
async function openFirst() {
  const wanted = Number(new URLSearchParams(location.search).get("scene"));
  const scenes = await calls.listScenes();
  const first = scenes.find((s) => s.id === wanted) ?? scenes[0];
  if (get().id !== null) return; // a scene was made or opened meanwhile
  if (first) await openScene(first.id);
  else set({ dialog: "new" });
}

async function start() {
  const root = createRoot(document.getElementById("root")!);
  try {
    const [cabinet, catalogue] = await Promise.all([calls.cabinet(), calls.catalogue()]);
    set({ cabinet, catalogue, told: leftOut(catalogue) });
  } catch (e) {
    root.render(<Fault message={(e as Error).message} />);
    return;
  }
  root.render(
    <Guard>
      <Sheet />
    </Guard>,
  );
  await openFirst().catch(tell);
}

void start();
