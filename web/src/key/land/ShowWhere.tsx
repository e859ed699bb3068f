import { useEffect, useState } from "react";
import { engine } from "../../state/engine";
import { usePage } from "../../state/store";

/** Hatches the ground where a material lies, for as long as it is asked for and chosen. */
export function ShowWhere({ index }: { index: number }) {
  const [on, setOn] = useState(false);
  const products = usePage((s) => s.products);
  useEffect(() => {
    if (!on || !products) return;
    const n = products.field.nx * products.field.ny;
    const layer = Math.floor(index / 4) * n * 4 + (index % 4);
    const out = new Uint8Array(n);
    for (let i = 0; i < n; i++) out[i] = products.weights[layer + i * 4];
    engine.view?.wash(out);
    return () => engine.view?.wash(null);
  }, [on, products, index]);
  return (
    <button className={`btn mt-1 ${on ? "on" : ""}`} aria-pressed={on} onClick={() => setOn(!on)}>
      Hatch where it lies
    </button>
  );
}
