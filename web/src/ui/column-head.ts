/** Column heads in words: "C_2" is method C with two loaded conductors. */
export function columnHead(column: string): string {
  const method = /^([A-F])_([23])(touch|trefoil)?$/.exec(column);
  if (method) return `${method[1]}, ${method[2]} loaded${method[3] ? ` ${method[3]}` : ""}`;
  const drop = /^ph([13])(?:_(AB|C|Ctrefoil))?_([rxz])$/.exec(column);
  if (drop) return `${drop[1]} ph${drop[2] ? ` ${drop[2].replace("Ctrefoil", "C trefoil")}` : ""} ${drop[3]}`;
  const flat = /^m(\d{3})$/.exec(column);
  return flat ? (flat[1] ?? column) : column.replaceAll("_", " ");
}
