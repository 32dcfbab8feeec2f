/** How large an element is on the page, px; nothing until it is there. */
import { useLayoutEffect, useState, type RefObject } from 'react';

export interface Size {
  readonly width: number;
  readonly height: number;
}

export function useSizeOf(element: RefObject<HTMLElement | null>): Size {
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const { current } = element;
    if (!current) return undefined;
    const observer = new ResizeObserver(() => setSize({ width: current.clientWidth, height: current.clientHeight }));
    observer.observe(current);
    return () => observer.disconnect();
  }, [element]);
  return size;
}
