// The score as a file: the drawing on the screen with its colours written out, so
// that it looks the same anywhere.

const kept = ["fill", "stroke", "font-size", "font-weight"] as const;

/** toSVG copies a drawing with its colours and letters resolved. */
export function toSVG(drawing: SVGSVGElement): string {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  const from = drawing.querySelectorAll("*");
  copy.querySelectorAll("*").forEach((el, i) => {
    const style = getComputedStyle(from[i]);
    for (const k of kept)
      if (el.getAttribute(k) || (el as SVGElement).style.getPropertyValue(k))
        el.setAttribute(k, style.getPropertyValue(k));
    el.removeAttribute("style");
  });
  const ground = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  ground.setAttribute("width", "100%");
  ground.setAttribute("height", "100%");
  ground.setAttribute("fill", getComputedStyle(document.body).getPropertyValue("--chakra-colors-panel") || "#fff");
  copy.prepend(ground);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("font-family", "Inter, 'Inter Variable', system-ui, sans-serif");
  copy.removeAttribute("style");
  return new XMLSerializer().serializeToString(copy);
}

/** toPNG draws it at twice its size. */
export async function toPNG(drawing: SVGSVGElement): Promise<Blob> {
  const img = new Image();
  img.src = URL.createObjectURL(new Blob([toSVG(drawing)], { type: "image/svg+xml" }));
  await img.decode();
  const canvas = document.createElement("canvas");
  canvas.width = 2 * drawing.clientWidth;
  canvas.height = 2 * drawing.clientHeight;
  canvas.getContext("2d")!.drawImage(img, 0, 0, canvas.width, canvas.height);
  URL.revokeObjectURL(img.src);
  return new Promise((ok, no) =>
    canvas.toBlob((b) => (b ? ok(b) : no(new Error("The picture could not be made."))), "image/png"),
  );
}

/** save hands a file to the browser. */
export function save(name: string, content: Blob) {
  const a = document.createElement("a");
  a.href = URL.createObjectURL(content);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}
