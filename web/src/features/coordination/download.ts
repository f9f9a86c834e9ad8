import { save } from "../../ui/save";

/** The drawing by itself: what the page gives it by name is written into it, so that it looks the same anywhere. */
function alone(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const style = getComputedStyle(document.documentElement);
  const box = svg.viewBox.baseVal;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", String(box.width));
  copy.setAttribute("height", String(box.height));
  const ground = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  ground.setAttribute("width", "100%");
  ground.setAttribute("height", "100%");
  ground.setAttribute("fill", "var(--paper)");
  copy.prepend(ground);
  const text = new XMLSerializer().serializeToString(copy);
  const probe = document.createElement("span");
  document.body.append(probe);
  const written = text.replace(/var\((--[\w-]+)\)/g, (_, name: string) => {
    if (name === "--font-figure") return "monospace";
    probe.style.color = style.getPropertyValue(name);
    return getComputedStyle(probe).color;
  });
  probe.remove();
  return written;
}

export function download(svg: SVGSVGElement, name: string) {
  save(new Blob([alone(svg)], { type: "image/svg+xml" }), name);
}

/** Twice as fine as on the screen, for paper. */
export async function downloadPng(svg: SVGSVGElement, name: string) {
  const box = svg.viewBox.baseVal;
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(alone(svg))}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = box.width * 2;
  canvas.height = box.height * 2;
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  canvas.toBlob((blob) => blob && save(blob, name), "image/png");
}
