import type { Change, Route } from "../../api/types";
import { LAID } from "../../parts/laid";
import { setFields, useLimits, useRules, useStore } from "../../sync/job-context";
import { ComboEditor, containing, NumberEditor, TextEditor } from "../../ui/editors";
import { quantity } from "../../ui/quantity";
import { Sentence } from "../../ui/sentence";
import { Word } from "../../ui/word";
import { ROUTE_SENTENCE } from "./words";

const KINDS: Record<Route["kind"], string> = {
  open: "not enclosed",
  conduit: "in a conduit",
  trunking: "in trunking",
  tray: "on a tray",
  basket: "in a basket",
};

/** The name of a route, as the heading it stands under. */
export function RouteName({ route }: { route: Route }) {
  const store = useStore();
  return (
    <Word label={`name of ${route.name || "unnamed"}`} text={route.name || "Unnamed route"}>
      {(e) => (
        <TextEditor
          {...e}
          label={ROUTE_SENTENCE.nameRoute}
          value={route.name}
          onSave={(name) => store.edit([setFields("route", route.id, { name })])}
        />
      )}
    </Word>
  );
}

/** A route as a sentence whose words are its inputs; what it leaves to its spans says so. */
export function RouteSentence({ route }: { route: Route }) {
  const store = useStore();
  const rules = useRules();
  const [length, ambient, ground, wrapped] = [
    useLimits("route.length"),
    useLimits("route.ambient"),
    useLimits("route.ground"),
    useLimits("route.wrapped"),
  ];
  const place = rules.places.find((p) => p.id === route.place);
  const set = (fields: Change["fields"]) => store.edit([setFields("route", route.id, fields)]);
  const setPlace = (id: string) => {
    const to = rules.places.find((p) => p.id === id);
    set({ place: id, ...(to && !to.laid.includes(route.laid) ? { laid: to.laid[0] } : {}) });
  };
  const name = route.name || "unnamed";
  const degrees = place?.ground ? route.ground : route.ambient;
  return (
    <Sentence id={`route ${route.id}`}>
      <p data-sentence className="mt-1 text-[1.05rem] leading-[1.8]">
        <Word
          label={`length of ${name}`}
          text={route.length === null ? "span lengths as entered" : quantity(route.length, "m")}
        >
          {(e) => (
            <NumberEditor
              {...e}
              label={ROUTE_SENTENCE.lengthRoute}
              value={route.length}
              limits={length}
              optional
              onSave={(v) => set({ length: v })}
            />
          )}
        </Word>{" "}
        <Word after="," label={`surroundings of ${name}`} text={place?.title ?? "installed as each span says"} wide>
          {(e) => (
            <ComboEditor
              {...e}
              label={ROUTE_SENTENCE.installationMethod}
              options={containing(
                rules.places.map((p) => ({ value: p.id, text: p.title, note: `method ${p.method}` })),
              )}
              onSave={setPlace}
            />
          )}
        </Word>{" "}
        <Word after="," label={`held ${name}`} text={KINDS[route.kind]}>
          {(e) => (
            <ComboEditor
              {...e}
              label={ROUTE_SENTENCE.containment}
              options={containing(Object.entries(KINDS).map(([value, text]) => ({ value, text, note: "" })))}
              onSave={(kind) => set({ kind })}
            />
          )}
        </Word>{" "}
        <Word after="," label={`laid in ${name}`} text={LAID[route.laid] ?? route.laid}>
          {(e) => (
            <ComboEditor
              {...e}
              label={ROUTE_SENTENCE.howTheyGrouped}
              options={containing(
                rules.laid
                  .filter((laid) => !place || place.laid.includes(laid) || laid === route.laid)
                  .map((laid) => ({ value: laid, text: LAID[laid] ?? laid, note: "" })),
              )}
              onSave={(laid) => set({ laid })}
            />
          )}
        </Word>
        {" at "}
        <Word
          after=","
          label={`temperature in ${name}`}
          text={degrees === null ? "each span’s own temperature" : quantity(degrees, "°C")}
        >
          {(e) => (
            <NumberEditor
              {...e}
              label={place?.ground ? ROUTE_SENTENCE.temperatureGround : "Ambient temperature"}
              value={degrees}
              limits={place?.ground ? ground : ambient}
              optional
              onSave={(v) => set(place?.ground ? { ground: v } : { ambient: v })}
            />
          )}
        </Word>{" "}
        <Word
          after="."
          label={`wrapped in ${name}`}
          text={
            route.wrapped === null
              ? "insulation as each span says"
              : route.wrapped > 0
                ? `${quantity(route.wrapped, "m")} surrounded by insulation`
                : "not surrounded by insulation"
          }
        >
          {(e) => (
            <NumberEditor
              {...e}
              label={ROUTE_SENTENCE.lengthSurroundedThermal}
              value={route.wrapped}
              limits={wrapped}
              optional
              onSave={(v) => set({ wrapped: v })}
            />
          )}
        </Word>
      </p>
    </Sentence>
  );
}
