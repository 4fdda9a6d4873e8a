/** The map as a picture of its own: an SVG with its colours in it, or a PNG of that. */

function standalone(): { text: string; width: number; height: number } | null {
  const drawn = document.querySelector<SVGSVGElement>("svg[data-trail]");
  if (!drawn) return null;
  const styles = getComputedStyle(document.documentElement);
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const { width, height } = drawn.viewBox.baseVal;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", String(width));
  copy.setAttribute("height", String(height));
  copy.setAttribute("font-family", "Public Sans, sans-serif");
  const text = new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\((--[a-z0-9-]+)\)/g, (_, name: string) => styles.getPropertyValue(name).trim() || "#000");
  return { text, width, height };
}

function save(blob: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

export function saveSvg(name: string): void {
  const picture = standalone();
  if (picture) save(new Blob([picture.text], { type: "image/svg+xml" }), `${name}.svg`);
}

/** Print the map alone, as large as the paper allows. */
export function print(name: string): void {
  const picture = standalone();
  if (!picture) return;
  const frame = document.createElement("iframe");
  frame.style.cssText = "position:fixed;width:0;height:0;border:0";
  frame.srcdoc = `<title></title><style>@page{size:landscape;margin:10mm}body{margin:0;font:14px sans-serif}svg{width:100%;height:auto;max-height:180mm}</style><h3></h3>${picture.text}`;
  frame.onload = () => {
    const page = frame.contentDocument;
    if (page) for (const element of page.querySelectorAll("title,h3")) element.textContent = name;
    frame.contentWindow?.addEventListener("afterprint", () => {
      frame.remove();
    });
    frame.contentWindow?.print();
  };
  document.body.append(frame);
}

export async function savePng(name: string): Promise<void> {
  const picture = standalone();
  if (!picture) return;
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(picture.text)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = picture.width * 2;
  canvas.height = picture.height * 2;
  const draw = canvas.getContext("2d");
  if (!draw) return;
  draw.fillStyle = getComputedStyle(document.documentElement).getPropertyValue("--mist");
  draw.fillRect(0, 0, canvas.width, canvas.height);
  draw.drawImage(image, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise<Blob | null>((done) => {
    canvas.toBlob(done, "image/png");
  });
  if (blob) save(blob, `${name}.png`);
}
