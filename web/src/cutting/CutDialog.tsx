import { Button, Checkbox, Modal, Spin } from "antd";
import { useState } from "react";
import { useFlatParts, useMakeCutList } from "../api/cutting";
import type { Job, Schemas } from "../api/client";
import { Fact, Note } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { length, size, sizeOf, whole } from "./typing";
import "./cutting.css";
import * as texts from "./texts";

type FlatPart = Schemas["FlatPart"];

const inWords = (thickness: number) => Number(thickness.toFixed(3)).toString();

function Rows({ parts, chosen, onChosen }: { parts: readonly FlatPart[]; chosen: readonly string[]; onChosen: (paths: string[]) => void }) {
  const has = (part: FlatPart) => part.components.every((path) => chosen.includes(path));
  return (
    <ul className="cut-rows">
      {parts.map((part) => (
        <li key={part.component}>
          <Checkbox
            checked={has(part)}
            disabled={!!part.why_not}
            onChange={(event) => onChosen(event.target.checked ? [...chosen, ...part.components] : chosen.filter((path) => !part.components.includes(path)))}
          >
            {part.name}
          </Checkbox>
          <span className="soft">{part.why_not ? texts.isNoFlatPlate(part.why_not) : `${inWords(part.thickness)} ${texts.mm}`}</span>
          <span className="soft">{part.bought ? texts.bought : texts.times(part.quantity)}</span>
        </li>
      ))}
    </ul>
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

/** What is cut, and from which plate. */
export function CutDialog({ job, source, drawing, given, close, onMade }: Props) {
  const { data, error } = useFlatParts(source, !drawing);
  const make = useMakeCutList(job.id);
  const [chosen, setChosen] = useState<string[] | null>(null);
  const [copies, setCopies] = useState("1");
  const [plate, setPlate] = useState("600 × 400");
  const [gaps, setGaps] = useState("0");
  const parts = [...(data?.parts ?? [])].sort((a, b) => Number(!!a.why_not) - Number(!!b.why_not));
  const flat = parts.filter((part) => !part.why_not);
  const wanted = chosen ?? flat.flatMap((part) => (part.components.some((path) => given.includes(path)) ? part.components : []));
  const thick = [...new Set(flat.filter((part) => part.components.some((path) => wanted.includes(path))).map((part) => inWords(part.thickness)))];
  const groups = [...new Set(flat.filter((part) => !part.bought).map((part) => inWords(part.thickness)))];
  const [width, height] = sizeOf(plate) ?? [600, 400];
  const go = () =>
    make.mutate(
      {
        source,
        components: drawing ? null : wanted,
        copies: Number(copies),
        close: Number(gaps),
        name: "",
        plates: [{ width, height, thickness: Number(thick[0] ?? 0) }],
        // the server fills in what is not said here
      } as Schemas["NewCutList"],
      { onSuccess: (made) => onMade(made.cut_list) },
    );
  const problem = error?.message ?? (data?.work?.state === "failed" ? data.work.error : "");
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
        <Button key="go" type="primary" loading={make.isPending} disabled={!drawing && (!wanted.length || thick.length > 1)} onClick={go}>
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
      {groups.length > 1 && (
        <p className="layer-acts">
          {groups.map((thickness) => (
            <button
              key={thickness}
              type="button"
              onClick={() => setChosen(flat.filter((part) => !part.bought && inWords(part.thickness) === thickness).flatMap((part) => part.components))}
            >
              {texts.allOf(thickness)}
            </button>
          ))}
        </p>
      )}
      {!drawing && <Rows parts={parts} chosen={wanted} onChosen={setChosen} />}
      {thick.length > 1 && <Note tone="warning" title={texts.ofSeveralThicknesses} />}
      <Fact name={texts.copies}>
        <TypedField label={texts.copies} value={copies} read={whole} onChange={setCopies} />
      </Fact>
      <Fact name={texts.plateSize}>
        <TypedField label={texts.plateSize} value={plate} read={size} suffix={texts.mm} onChange={setPlate} />
      </Fact>
      {drawing && (
        <Fact name={texts.closeGapsUpTo}>
          <TypedField label={texts.closeGapsUpTo} value={gaps} read={length} suffix={texts.mm} onChange={setGaps} />
        </Fact>
      )}
    </Modal>
  );
}
