/** The type of this page under the name that documents call theirs by. */
function typeOfPage(): string {
  const faces: string[] = [];
  for (const sheet of document.styleSheets)
    for (const rule of sheet.cssRules)
      if (rule instanceof CSSFontFaceRule && rule.style.getPropertyValue("font-family").includes("Next"))
        faces.push(
          rule.cssText
            .replace(/font-family:[^;]+;/, "font-family: Page;")
            .replace(/url\("([^"]+)"\)/g, (_, address) => `url("${new URL(address, sheet.href ?? location.href)}")`),
        );
  return faces.join("\n");
}

/** Print a document that was made on this device: the browser lays it out. */
export function print(page: string) {
  const frame = document.createElement("iframe");
  frame.hidden = true;
  frame.title = "document to print";
  frame.srcdoc = page.replace("</head>", `<style>${typeOfPage()}</style></head>`);
  frame.onload = () => {
    const sheet = frame.contentWindow;
    if (!sheet) return;
    sheet.onafterprint = () => frame.remove();
    void sheet.document.fonts.ready.then(() => sheet.print());
  };
  document.body.append(frame);
}
