import { useLayoutEffect, useRef, useState } from "react";

export function usePlaceSize() {
  const ref = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([e]) =>
      setSize({ width: Math.floor(e.contentRect.width), height: Math.floor(e.contentRect.height) }),
    );
    watch.observe(ref.current!);
    return () => watch.disconnect();
  }, []);
  return [ref, size] as const;
}
