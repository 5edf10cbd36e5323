import { App, Button, Checkbox, Modal, Spin } from "antd";
import { useState } from "react";
import { PLAIN } from "../api/metal";
import { useCutter, useFlatParts, useMakeCutList } from "../api/cutting";
import type { Job, Schemas } from "../api/client";
import { useJobUnit } from "../common/unit";
import { Fact, Note } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { sizeInJob, sizeShown } from "../views/sizes";
import { whole } from "../views/typing";
import { ALL_CUT, DrawnAs } from "./DrawnAs";
import "./cutting.css";
import * as texts from "./texts";

type FlatPart = Schemas["FlatPart"];
type How = Record<string, Schemas["ProfileChoice"]>;

const VIEWS = ["front", "rear", "left", "right", "top", "bottom"] as const;
const inWords = (thickness: number) => Number(thickness.toFixed(3)).toString();
const rounded = new Intl.NumberFormat("en", { maximumSignificantDigits: 4 });

interface RowsProps {
  parts: readonly FlatPart[];
  chosen: readonly string[];
  how: How;
  onChosen: (paths: string[], how: How) => void;
}

/** What of a part that is no flat plate is cut: nothing, its silhouette from somewhere, or one of its faces. */
function HowOf({ part, how, onHow }: { part: FlatPart; how: Schemas["ProfileChoice"] | undefined; onHow: (how: Schemas["ProfileChoice"] | null) => void }) {
  const value = !how ? "" : how.unfolded ? "flat" : how.face !== null && how.face !== undefined ? `face ${how.face}` : (how.seen_from ?? "");
  return (
    <select
      className="how"
      aria-label={texts.whatOf(part.name)}
      title={texts.isNoFlatPlate(part.why_not)}
      value={value}
      onChange={({ target }) =>
        onHow(
          target.value === "flat"
            ? { seen_from: "front", face: null, unfolded: PLAIN, bends: false }
            : target.value.startsWith("face ")
              ? { seen_from: "front", face: Number(target.value.slice(5)), bends: false }
              : target.value
                ? { seen_from: target.value, face: null, bends: false }
                : null,
        )
      }
    >
      <option value="">{texts.noFlatPlate}</option>
      {part.unfolds > 0 && <option value="flat">{texts.flatPattern(inWords(part.unfolds))}</option>}
      <optgroup label={texts.silhouette}>
        {VIEWS.map((view) => (
          <option key={view} value={view}>
            {texts.silhouetteFrom(view)}
          </option>
        ))}
      </optgroup>
      {part.faces.length > 0 && (
        <optgroup label={texts.oneOfItsFaces}>
          {part.faces.map((face) => (
            <option key={face.number} value={`face ${face.number}`}>
              {texts.faceOf(rounded.format(face.area), face.seen_from)}
            </option>
          ))}
        </optgroup>
      )}
    </select>
  );
}

function Rows({ parts, chosen, how, onChosen }: RowsProps) {
  const has = (part: FlatPart) => part.components.every((path) => chosen.includes(path));
  const rest = (part: FlatPart) => chosen.filter((path) => !part.components.includes(path));
  const taken = (part: FlatPart, choice: Schemas["ProfileChoice"] | null) => {
    const others = Object.fromEntries(Object.entries(how).filter(([path]) => path !== part.component));
    if (choice) onChosen([...rest(part), ...part.components], { ...others, [part.component]: choice });
    else onChosen(rest(part), others);
  };
  return (
    <ul className="cut-rows">
      {parts.map((part) => (
        <li key={part.component}>
          <Checkbox
            checked={has(part)}
            disabled={!!part.why_not && !how[part.component]}
            onChange={(event) => onChosen(event.target.checked ? [...rest(part), ...part.components] : rest(part), how)}
          >
            {part.name}
          </Checkbox>
          {part.why_not ? (
            <HowOf part={part} how={how[part.component]} onHow={(choice) => taken(part, choice)} />
          ) : (
            <span className="soft">{`${inWords(part.thickness)} ${texts.mm}`}</span>
          )}
          <span className="soft">{part.bought ? texts.bought : texts.times(part.quantity)}</span>
        </li>
      ))}
    </ul>
  );
}

/** A list of parts and quantities instead, out of a file or as it is typed. */
function TypedList({ typed, onTyped }: { typed: string; onTyped: (text: string) => void }) {
  return (
    <>
      <label className="list-file">
        {texts.outOfAFile}
        <input type="file" accept=".csv,.txt,text/csv" onChange={(event) => void event.target.files?.[0]?.text().then(onTyped)} />
      </label>
      <textarea aria-label={texts.partAndQuantity} placeholder={texts.suchAs} rows={5} value={typed} onChange={(event) => onTyped(event.target.value)} />
    </>
  );
}

interface Props {
  job: Job;
  source: string;
  /** Of a drawing all closed contours are cut. */
  drawing: boolean;
  /** Components that are chosen already. */
  given: readonly string[];
  close: () => void;
  onMade: (list: string) => void;
}

/** The plate that is asked for, as it is typed. */
function usePlate() {
  const unit = useJobUnit((state) => state.unit);
  const [plate, setPlate] = useState(() => (unit === "in" ? "24 × 18" : "600 × 400"));
  const [material, setMaterial] = useState("");
  const { data: cutter } = useCutter();
  const [width, height] = sizeShown(plate) ?? [600, 400];
  const materials = [...new Set((cutter?.chart ?? []).map((row) => row.material))];
  const made = (thickness: number) => {
    const row = cutter?.chart.find((own) => own.material === material && Math.abs(own.thickness - thickness) < 0.05);
    return { plates: [{ width, height, thickness, material }], choices: { kerf: row?.kerf ?? 0 } };
  };
  const fields = (drawn: boolean) => (
    <>
      {!drawn && (
        <Fact name={texts.plateSize}>
          <TypedField label={texts.plateSize} value={plate} read={sizeInJob} suffix={unit} onChange={setPlate} />
        </Fact>
      )}
      <Fact name={texts.material}>
        <select aria-label={texts.material} value={material} onChange={(event) => setMaterial(event.target.value)}>
          <option value="">{texts.notSaid}</option>
          {materials.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </Fact>
    </>
  );
  return { made, fields };
}

/** What is cut, and from which plate. */
export function CutDialog({ job, source, drawing, given, close, onMade }: Props) {
  const { data, error } = useFlatParts(source, !drawing);
  const make = useMakeCutList(job.id);
  const [chosen, setChosen] = useState<string[] | null>(null);
  const [how, setHow] = useState<How>({});
  const [copies, setCopies] = useState("1");
  const [said, setSaid] = useState(ALL_CUT);
  const { message } = App.useApp();
  const [typed, setTyped] = useState<string | null>(null);
  const plate = usePlate();
  const parts = [...(data?.parts ?? [])].sort((a, b) => Number(!!a.why_not) - Number(!!b.why_not));
  const flat = parts.filter((part) => !part.why_not);
  const wanted = chosen ?? flat.flatMap((part) => (part.components.some((path) => given.includes(path)) ? part.components : []));
  const thick = [...new Set(flat.filter((part) => part.components.some((path) => wanted.includes(path))).map((part) => inWords(part.thickness)))];
  const groups = [...new Set(flat.filter((part) => !part.bought).map((part) => inWords(part.thickness)))];
  const listed = typed !== null;
  const go = () =>
    make.mutate(
      {
        source,
        components: drawing ? null : listed ? [] : wanted,
        profiles: how,
        typed: typed ?? "",
        copies: Number(copies),
        drawn_as: said,
        name: "",
        ...plate.made(listed ? 0 : Number(thick[0] ?? 0)),
        // the server fills in what is not said here
      } as Schemas["NewCutList"],
      {
        onSuccess: (made) => {
          for (const note of made.notes) void message.info(note, 6);
          onMade(made.cut_list);
        },
      },
    );
  const problem = error?.message ?? (data?.work?.state === "failed" ? data.work.error : "");
  const ready = drawing || (listed ? !!typed.trim() && !!data?.parts : wanted.length > 0 && thick.length <= 1);
  return (
    <Modal
      open
      className="cut-dialog"
      title={texts.whatIsCut}
      onCancel={close}
      footer={[
        <Button key="cancel" onClick={close}>
          {texts.cancel}
        </Button>,
        <Button key="go" type="primary" loading={make.isPending} disabled={!ready} onClick={go}>
          {texts.cutThese}
        </Button>,
      ]}
    >
      {problem && <Note tone="error" title={problem} />}
      {!drawing && !data?.parts && !problem && (
        <p>
          <Spin size="small" /> {texts.lookingForFlatParts}
        </p>
      )}
      {!drawing && data?.parts && !flat.length && <Note tone="info" title={texts.noFlatPart} />}
      {!drawing && (
        <p className="layer-acts">
          {!listed &&
            groups.map((thickness) => (
              <button
                key={thickness}
                type="button"
                onClick={() => setChosen(flat.filter((part) => !part.bought && inWords(part.thickness) === thickness).flatMap((part) => part.components))}
              >
                {texts.allOf(thickness)}
              </button>
            ))}
          <button type="button" onClick={() => setTyped(listed ? null : "")}>
            {listed ? texts.chooseThemHere : texts.fromAList}
          </button>
        </p>
      )}
      {!drawing && listed && <TypedList typed={typed} onTyped={setTyped} />}
      {!drawing && !listed && (
        <Rows
          parts={parts}
          chosen={wanted}
          how={how}
          onChosen={(paths, choices) => {
            setChosen(paths);
            setHow(choices);
          }}
        />
      )}
      {!listed && thick.length > 1 && <Note tone="warning" title={texts.ofSeveralThicknesses} />}
      <Fact name={texts.copies}>
        <TypedField label={texts.copies} value={copies} read={whole} onChange={setCopies} />
      </Fact>
      {plate.fields(drawing && said.plate)}
      {drawing && <DrawnAs source={source} said={said} onSaid={setSaid} />}
    </Modal>
  );
}
