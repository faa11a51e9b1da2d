import { useEffect, useRef, useState } from "react";

import { useIsDark } from "../ui/ground";

export interface Size {
  width: number;
  height: number;
}

/** Keeps a canvas as large as its frame and as sharp as the screen, and draws on it anew when `draw` changes. */
export function usePlot(draw: (context: CanvasRenderingContext2D, size: Size) => void) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  const [fonts, setFonts] = useState(false);
  const dark = useIsDark();

  useEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      setSize({ width: element.clientWidth, height: element.clientHeight });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  useEffect(() => {
    void document.fonts.load("13px 'Instrument Sans Variable'").then(() => setFonts(true));
  }, []);

  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context || size.width === 0) return;
    const scale = window.devicePixelRatio || 1;
    element.width = Math.round(size.width * scale);
    element.height = Math.round(size.height * scale);
    context.setTransform(scale, 0, 0, scale, 0, 0);
    context.clearRect(0, 0, size.width, size.height);
    draw(context, size);
  }, [draw, size, fonts, dark]);

  return { canvas, size };
}
