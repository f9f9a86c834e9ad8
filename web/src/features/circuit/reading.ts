import type { Cable, Circuit, Device, Load, Rules } from "../../api/types";
import type { Option } from "../../ui/editors";
import { exact, shortFigure, watts } from "../../ui/quantity";

/** Reading what is typed into the statement: a load, a device, a cable. Each answers with what it understood, in words. */

type LoadKind = Load["kind"];
export type LoadFields = Pick<Load, "name" | "kind" | "basis" | "amount" | "pf" | "quantity" | "rated_volts">;

type Kinds = Rules["kinds"];

/** The kind of load that words speak of: the first whose phrase stands among them, as the reader of lines has it. */
function kindOf(kinds: Kinds, words: string): Kinds[number] | undefined {
  const plain = ` ${words.toLowerCase().replace(/[^\p{L}\p{N}/-]+/gu, " ")} `;
  let best: { kind: Kinds[number]; length: number } | undefined;
  for (const kind of kinds)
    for (const phrase of kind.said)
      if (plain.includes(` ${phrase} `) && phrase.length > (best?.length ?? 0)) best = { kind, length: phrase.length };
  return best?.kind;
}

/** "2 x 50 W lights pf 0.9", "9.2 kW shower", "38 A", "sockets". Null when there is neither an amount nor a word. */
export function readLoad(text: string, kinds: Kinds): LoadFields | null {
  const match =
    /^\s*(?:(\d{1,3})\s*[x×]\s*)?(?:(\d+(?:[.,]\d+)?)\s*(kw|w|a)(?![a-z]))?\s*(?:at\s+(\d{2,3}(?:[.,]\d+)?)\s*v(?:olts?)?\b)?\s*(.*?)(?:\s*\bpf\s*(0?[.,]\d+|1(?:[.,]0+)?))?\s*$/i.exec(
      text,
    );
  if (!match) return null;
  const [, count, amount, unit, volts, words = "", pf] = match;
  const name = words.trim();
  if (amount === undefined && name === "") return null;
  // A bare number has no unit: better to ask than to guess between kW, W and A.
  if (amount === undefined && /^\d/.test(name)) return null;
  const known = kindOf(kinds, name);
  const kind = (known?.id ?? "other") as LoadKind;
  const size = amount === undefined ? null : Number(amount.replace(",", "."));
  const inWatts = unit?.toLowerCase() !== "a";
  return {
    name: name || known?.title || "load",
    kind,
    basis: size === null ? (kind === "sockets" ? "In" : "W") : inWatts ? "W" : "A",
    amount: size === null ? null : unit?.toLowerCase() === "kw" ? Number((size * 1000).toPrecision(12)) : size,
    pf: pf === undefined ? 1 : Number(pf.replace(",", ".")),
    rated_volts: volts === undefined ? null : Number(volts.replace(",", ".")),
    quantity: count === undefined ? 1 : Number(count),
  };
}

export function loadText(load: LoadFields): string {
  const amount =
    load.basis === "In" || load.amount === null
      ? ""
      : load.basis === "W"
        ? `${watts(load.amount)}${load.rated_volts == null ? "" : ` at ${exact(load.rated_volts)} V`}`
        : `${exact(load.amount)} A`;
  const times = load.quantity > 1 ? `${load.quantity} × ` : "";
  const pf = load.pf < 1 ? ` pf ${load.pf}` : "";
  return `${times}${amount} ${load.name}${pf}`.replace(/\s+/g, " ").trim();
}

export function loadsText(circuit: Circuit): string {
  if (circuit.loads.length === 0) return circuit.feeds ? "a sub-main" : "a load";
  return circuit.loads.map(loadText).join(", ");
}

export type DeviceFields = Partial<Device>;

const KINDS: Device["kind"][] = ["rcbo", "mcb"];
const CURVES: Device["curve"][] = ["B", "C", "D"];

/**
 * "b32", "32 rcbo", "C40 mcb 10kA": the devices that fit, the plainest first.
 *
 * like: a device of the same board. What is not entered yet is offered as it is there, and the option says so.
 */
export function deviceOptions(rules: Rules, now: Device, like: Device | undefined) {
  return (text: string): Option<DeviceFields>[] => {
    const words = text
      .toLowerCase()
      .replaceAll("type", " ")
      .replace(/\bon\b/g, " ");
    const other = OTHERS.find(([, pattern]) => pattern.test(words));
    if (other) return otherOptions(rules, now, like, other[0], words.replace(other[1], " "));
    const kind = /rcbo/.test(words) ? "rcbo" : /mcb/.test(words) ? "mcb" : null;
    const icn = /(\d+(?:\.\d+)?)\s*ka/.exec(words)?.[1];
    const idn = /(\d+)\s*ma/.exec(words)?.[1];
    const rest = words.replace(/rcbo|mcb|\d+(\.\d+)?\s*ka|\d+\s*ma/g, " ");
    const curve = /([bcd])\s*\d|\b([bcd])\b|\d\s*a?\s*([bcd])\b/.exec(rest);
    const letter = (curve?.[1] ?? curve?.[2] ?? curve?.[3])?.toUpperCase();
    const rating = /(\d+)/.exec(rest)?.[1];
    const known = rest.replace(/[bcd]|\d+|a\b|\s|,/g, "") === "";
    if (!known) return [];
    const ratings = rules.ratings.filter((r) => rating === undefined || String(r).startsWith(rating));
    const exact = [...ratings].sort((a, b) => Number(String(b) === rating) - Number(String(a) === rating));
    const kinds = kind
      ? [kind as Device["kind"]]
      : now.rating === null
        ? KINDS
        : [...KINDS].sort((a, b) => Number(b === now.kind) - Number(a === now.kind));
    const curves = letter ? [letter as Device["curve"]] : [now.curve, ...CURVES.filter((c) => c !== now.curve)];
    const found: Option<DeviceFields>[] = [];
    for (const k of kinds)
      for (const r of exact)
        for (const c of curves) found.push(deviceOption(now, like, { kind: k, curve: c, rating: r }, icn, idn));
    return found.sort((a, b) => rankOf(b, rating) - rankOf(a, rating)).slice(0, 24);
  };
}

/** Kinds that are named by their standard, or by a word of their own. */
const OTHERS: [Device["kind"], RegExp][] = [
  ["mccb", /mccb/],
  ["BS88-3", /(bs\s*)?88\s*-\s*3\b/],
  ["BS88-2", /(bs\s*)?88(\s*-\s*2\b)?|\bgg\b/],
  ["BS1361", /(bs\s*)?1361/],
  ["BS3036", /(bs\s*)?3036|rewir\w*/],
  ["BS1362", /(bs\s*)?1362/],
];

/** "bs88 32", "rewirable 30", "mccb 100": fuses of the ratings their tables have, an MCCB of any. */
function otherOptions(
  rules: Rules,
  now: Device,
  like: Device | undefined,
  kind: Device["kind"],
  rest: string,
): Option<DeviceFields>[] {
  const about = rules.devices.find((d) => d.id === kind);
  const icn = /(\d+(?:\.\d+)?)\s*ka/.exec(rest)?.[1];
  const rating = /(\d+)/.exec(rest.replace(/\d+(\.\d+)?\s*ka/, " "))?.[1];
  const known = about && about.ratings.length > 0 ? about.ratings : rating ? [Number(rating)] : [];
  return known
    .filter((r) => rating === undefined || String(r).startsWith(rating))
    .sort((a, b) => Number(String(b) === rating) - Number(String(a) === rating))
    .map((r) => {
      const value: DeviceFields = { kind, rating: r, idn: null, rcd_type: null };
      if (icn) value.icn = Number(icn) * 1000;
      else if (now.icn === null && like?.kind === kind) value.icn = like.icn;
      return { value, text: `${r} A ${about?.title ?? kind}`, note: "" };
    });
}

const rankOf = (o: Option<DeviceFields>, rating: string | undefined) => (String(o.value.rating) === rating ? 1 : 0);

function deviceOption(
  now: Device,
  like: Device | undefined,
  chosen: Pick<Device, "kind" | "curve" | "rating">,
  icn: string | undefined,
  idn: string | undefined,
): Option<DeviceFields> {
  const value: DeviceFields = { ...chosen };
  const borrowed: string[] = [];
  if (icn) value.icn = Number(icn) * 1000;
  else if (now.icn === null && like?.icn) {
    value.icn = like.icn;
    borrowed.push(`${shortFigure(like.icn / 1000)} kA`);
  }
  if (chosen.kind === "mcb") {
    value.idn = null;
    value.rcd_type = null;
  } else if (idn) value.idn = Number(idn) / 1000;
  else if (now.idn === null && like?.idn) {
    value.idn = like.idn;
    value.rcd_type = like.rcd_type;
    borrowed.push(`${shortFigure(like.idn * 1000)} mA`);
  }
  const told = { ...now, ...value };
  const facts = [told.icn && `${shortFigure(told.icn / 1000)} kA`, told.idn && `${shortFigure(told.idn * 1000)} mA`];
  const note = borrowed.length > 0 ? `${borrowed.join(", ")} like its neighbour` : facts.filter(Boolean).join(", ");
  return { value, text: `${chosen.rating} A type ${chosen.curve} ${chosen.kind.toUpperCase()}`, note };
}

export function deviceText(device: Device, rules?: Rules): string {
  if (device.rating === null) return "a device, not chosen";
  if (device.kind !== "mcb" && device.kind !== "rcbo")
    return `${shortFigure(device.rating)} A ${rules?.devices.find((d) => d.id === device.kind)?.title ?? device.kind}`;
  return `${shortFigure(device.rating)} A type ${device.curve} ${device.kind.toUpperCase()}`;
}

/** What of a value is another than it was: what was only typed again is no change, and clashes with nobody's. */
export const otherThan = <T extends object>(was: T, now: Partial<T>): Partial<T> =>
  Object.fromEntries(Object.entries(now).filter(([name, value]) => was[name as keyof T] !== value)) as Partial<T>;

/** "10", "6 flat", "10/4 singles 90": the cables that fit; without a family typed, the one there comes first. */
export function cableOptions(rules: Rules, now: Cable) {
  return (text: string): Option<Partial<Cable>>[] => {
    const words = text.toLowerCase().replace(/mm²|mm2|mm/g, " ");
    const sizes = /(\d+(?:[.,]\d+)?)(?:\s*\/\s*(\d+(?:[.,]\d+)?))?/.exec(words);
    const size = sizes?.[1]?.replace(",", ".");
    const cpc = sizes?.[2]?.replace(",", ".");
    const rest = words
      .replace(sizes?.[0] ?? "", " ")
      .split(/[\s,]+/)
      .filter(Boolean);
    const families = rules.families.filter((f) => rest.every((w) => f.title.toLowerCase().includes(w)));
    const ordered = [...families].sort((a, b) => Number(b.id === now.family) - Number(a.id === now.family));
    const found = ordered.flatMap((family) =>
      family.sizes
        .filter((s) => size === undefined || String(s).startsWith(size))
        .map((csa): Option<Partial<Cable>> => {
          const pair = family.pairs.find((p) => p.line === csa)?.cpc;
          const own = cpc ? Number(cpc) : family.cpc === "single" ? csa : null;
          return {
            value: { family: family.id, csa, cpc_csa: own },
            text: `${shortFigure(csa)} mm² ${family.title}`,
            note: `cpc ${shortFigure(own ?? pair ?? csa)} mm²`,
          };
        }),
    );
    const exact = (o: Option<Partial<Cable>>) => (String(o.value.csa) === size ? 1 : 0);
    return found.sort((a, b) => exact(b) - exact(a)).slice(0, 30);
  };
}

export function cableText(rules: Rules, cable: Cable): string {
  const family = rules.families.find((f) => f.id === cable.family)?.title;
  if (!family) return "a cable, not chosen";
  if (cable.csa === null) return `${family}, no size yet`;
  const cpc = cable.cpc_csa === null ? "" : ` with ${shortFigure(cable.cpc_csa)} mm² cpc`;
  return `${shortFigure(cable.csa)} mm² ${family}${cpc}`;
}
