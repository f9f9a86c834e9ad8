import type { Change, Circuit, Device } from "../../api/types";
import { setFields, useJob, useLimits, useRules, useStore } from "../../sync/job-context";
import { ComboEditor, NumberEditor, NumberField } from "../../ui/editors";
import { type Limits, shortFigure } from "../../ui/quantity";
import { type EditorProps, Word } from "../../ui/word";
import { deviceOptions } from "./reading";
import { DEVICE_WORDS } from "./words";

/** A device by rating, type and kind, with its figures below. */
export function DeviceEditor({ circuit, ...editor }: EditorProps & { circuit: Circuit }) {
  const store = useStore();
  const rules = useRules();
  const { inputs } = useJob();
  const limits = useDeviceLimits();
  const { device } = circuit;
  const like = inputs?.circuits
    .filter((c) => c.board === circuit.board && c.id !== circuit.id && c.device.icn)
    .at(-1)?.device;
  const set = (fields: Change["fields"]) => store.edit([setFields("circuit", circuit.id, { device: fields })]);
  return (
    <ComboEditor
      {...editor}
      label={DEVICE_WORDS.deviceRatingType}
      placeholder={DEVICE_WORDS.b32Rcbo30ma}
      options={deviceOptions(rules, device, like)}
      onSave={(fields) => set({ ...fields })}
      after={
        <div className="mt-3 grid grid-cols-2 gap-3 border-hair border-t pt-2">
          <NumberField
            label={TITLES.icn}
            value={scaled(device.icn, 0.001)}
            limits={limits.icn}
            onSave={(v) => set({ icn: scaled(v, 1000) })}
          />
          {device.kind === "rcbo" && (
            <NumberField
              label={TITLES.idn}
              value={scaled(device.idn, 1000)}
              limits={limits.idn}
              onSave={(v) => set({ idn: scaled(v, 0.001) })}
            />
          )}
        </div>
      }
    />
  );
}

/** What else is said of a device in figures: the residual current it trips at, the fault current it breaks. */
export function DeviceFacts({ device, onSet }: { device: Device; onSet: (fields: Partial<Device>) => void }) {
  const limits = useDeviceLimits();
  const { idn, icn } = device;
  if (idn === null && icn === null) return null;
  return (
    <>
      {" "}
      {idn !== null && (
        <FigureWord
          before="("
          after={icn === null ? ")" : ","}
          label="IΔn"
          title={TITLES.idn}
          value={idn * 1000}
          limits={limits.idn}
          onSave={(v) => onSet({ idn: scaled(v, 0.001) })}
        />
      )}
      {idn !== null && icn !== null && " "}
      {icn !== null && (
        <FigureWord
          before={idn === null ? "(" : undefined}
          after=")"
          label="Icn"
          title={TITLES.icn}
          value={icn / 1000}
          limits={limits.icn}
          onSave={(v) => onSet({ icn: scaled(v, 1000) })}
        />
      )}
    </>
  );
}

interface FigureProps {
  before?: string;
  after?: string;
  label: string;
  title: string;
  value: number;
  limits: Limits;
  onSave: (value: number) => void;
}

/** A word that is a symbol with its figure; it cannot be left empty. */
function FigureWord({ before, after, label, title, value, limits, onSave }: FigureProps) {
  return (
    <Word {...{ before, after, label }} text={`${label} ${shortFigure(value)} ${limits.unit}`}>
      {(e) => (
        <NumberEditor
          {...e}
          label={title}
          value={scaled(value, 1)}
          limits={limits}
          onSave={(v) => v !== null && onSave(v)}
        />
      )}
    </Word>
  );
}

const TITLES = { idn: "IΔn, RCD rating", icn: "Icn, breaking capacity" } as const;
/** A value in another unit, without the dust of binary fractions. */
const scaled = <T extends number | null>(v: T, by: number): T =>
  (v === null ? null : Number((v * by).toPrecision(12))) as T;

/** What IΔn and Icn may be, in the units they are typed in. */
function useDeviceLimits() {
  const icn = useLimits("device.icn");
  const idn = useLimits("device.idn");
  return {
    icn: { lo: scaled(icn.lo, 0.001), hi: scaled(icn.hi, 0.001), unit: "kA" },
    idn: { lo: scaled(idn.lo, 1000), hi: scaled(idn.hi, 1000), unit: "mA" },
  };
}
