import { useEffect, useState } from "react";
import * as urls from "../api/urls";

/** The sixteen pictures of a whole turn, one after the other. */
export function Turning({ name, look, px }: { name: string; look: string; px: number }) {
  const [frame, setFrame] = useState(0);
  const [ready, setReady] = useState(false);
  const url = urls.kindTurning(name, look);
  useEffect(() => {
    let over = false;
    const all = new Image();
    setReady(false);
    all.onload = () => {
      if (!over) setReady(true);
    };
    all.src = url;
    const t = setInterval(() => setFrame((f) => (f + 1) % 16), 140);
    return () => {
      over = true;
      clearInterval(t);
    };
  }, [url]);
  if (!ready)
    return (
      <img
        src={urls.kindPicture(name, look)}
        alt=""
        className="mx-auto block object-contain object-bottom"
        style={{ width: px, height: px }}
      />
    );
  return (
    <i
      className="mx-auto block"
      data-turning={frame}
      style={{
        width: px,
        height: px,
        background: `url(${url}) ${-frame * px}px 0 / ${16 * px}px ${px}px no-repeat`,
      }}
    />
  );
}
