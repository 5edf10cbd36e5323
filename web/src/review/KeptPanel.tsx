import { Button, Input } from "antd";
import { useState } from "react";
import { newId } from "../common/ids";
import { freeName, readingOf, type KeptItem, type Kind } from "./kept";
import { inWords } from "./measuring";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

const HEADS: Record<Kind, string> = { camera: texts.cameras, section: texts.sections, reading: texts.readings, mark: texts.marks };

/** What a review keeps under a name: cameras, sections, readings and marks. */
export function KeptPanel({ review }: { review: Review }) {
  const kept = useReview(review, (state) => state.kept);
  const marking = useReview(review, (state) => state.marking);
  const tool = useReview(review, (state) => state.tool);
  const refusal = useReview(review, (state) => state.refusal);
  const { set, keeper } = review.getState();
  const keepCamera = () => {
    const { look, kept } = review.getState();
    keeper.keep({ kind: "camera", id: newId(), name: freeName(kept, "camera", texts.cameraWord), camera: look.camera });
  };
  return (
    <div className="kept">
      <span className="pair">
        <Button size="small" onClick={keepCamera}>
          {texts.keepThisCamera}
        </Button>
        <Button
          size="small"
          type={tool === "mark" ? "primary" : "default"}
          aria-pressed={tool === "mark"}
          onClick={() => set({ tool: tool === "mark" ? null : "mark", refusal: "" })}
        >
          {texts.newMark}
        </Button>
      </span>
      {refusal && (
        <p className="note warning" role="alert">
          {refusal}
        </p>
      )}
      {marking && <Marking review={review} />}
      {(Object.keys(HEADS) as Kind[]).map((kind) => {
        const rows = kept.filter((own) => own.kind === kind);
        return (
          rows.length > 0 && (
            <section key={kind}>
              <h3>{HEADS[kind]}</h3>
              <ul className="rows" aria-label={HEADS[kind]}>
                {rows.map((item) => (
                  <Row key={item.id} review={review} item={item} />
                ))}
              </ul>
            </section>
          )
        );
      })}
      {kept.length === 0 && <p className="soft small">{keeper.lasting ? texts.nothingKeptYet : texts.keptWhileOpen}</p>}
      {kept.length > 0 && !keeper.lasting && <p className="soft small">{texts.keptWhileOpen}</p>}
    </div>
  );
}

function Marking({ review }: { review: Review }) {
  const [text, setText] = useState("");
  const { set, keeper } = review.getState();
  const save = () => {
    const { marking, kept } = review.getState();
    if (marking && text.trim())
      keeper.keep({ kind: "mark", id: newId(), name: freeName(kept, "mark", texts.markWord), at: marking.at, part: marking.part, text: text.trim() });
    set({ marking: null });
  };
  return (
    <span className="pair">
      <Input
        size="small"
        autoFocus
        maxLength={500}
        aria-label={texts.textOfTheMark}
        placeholder={texts.whatIsToBeSeen}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onPressEnter={save}
      />
      <Button size="small" type="primary" disabled={!text.trim()} title={text.trim() ? undefined : texts.writeSomething} onClick={save}>
        {texts.keepIt}
      </Button>
    </span>
  );
}

function Row({ review, item }: { review: Review; item: KeptItem }) {
  const { see, set, keeper } = review.getState();
  const unit = useReview(review, (state) => state.unit);
  const [naming, setNaming] = useState(false);
  const show = () => {
    if (item.kind === "camera") see({ camera: item.camera });
    if (item.kind === "section") {
      see({ cuts: item.cuts });
      set({ plane: item.cuts[0]?.along ?? null });
    }
    if (item.kind === "mark" && item.part) set({ selected: item.part });
    if (item.kind === "reading" && item.parts[0]) set({ selected: item.parts[0] });
  };
  const view = () => {
    show();
    keeper.asView?.(item.name);
  };
  const told =
    item.kind === "reading"
      ? inWords(readingOf(item), unit)
      : item.kind === "mark"
        ? item.text
        : item.kind === "section"
          ? item.cuts.map((cut) => cut.along).join(", ")
          : "";
  const rename = (name: string) => {
    setNaming(false);
    if (name.trim() && name.trim() !== item.name) keeper.keep({ ...item, name: name.trim().slice(0, 60) });
  };
  return (
    <li className="kept-row">
      {naming ? (
        <Input
          size="small"
          autoFocus
          defaultValue={item.name}
          maxLength={60}
          aria-label={texts.nameOf(item.name)}
          onBlur={(event) => rename(event.target.value)}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      ) : (
        <button type="button" className="row" onClick={show}>
          <span>{item.name}</span>
          <em>{told}</em>
        </button>
      )}
      <span className="layer-acts">
        <button type="button" aria-label={texts.rename(item.name)} onClick={() => setNaming(true)}>
          {texts.renameWord}
        </button>
        {(item.kind === "camera" || item.kind === "section") && keeper.asView && (
          <button type="button" aria-label={texts.asAPreparedViewOf(item.name)} onClick={view}>
            {texts.asAPreparedView}
          </button>
        )}
        {(item.kind === "reading" || item.kind === "mark") && keeper.asNote && (
          <button
            type="button"
            aria-label={texts.asANoteOf(item.name)}
            onClick={() => keeper.asNote?.(item.kind === "mark" ? item.text : `${item.name}: ${told}`)}
          >
            {texts.asANote}
          </button>
        )}
        <button type="button" aria-label={texts.remove(item.name)} onClick={() => keeper.forget([item.id])}>
          {texts.remove2}
        </button>
      </span>
    </li>
  );
}
