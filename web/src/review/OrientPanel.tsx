import { Select } from "antd";
import { Fact } from "../ticket/Ticket";
import type { Rows } from "./model";
import type { Axis } from "./cutting";
import { quarter, upAxis, upTurn } from "./orienting";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

const UPS = ["z", "y", "x", "-z", "-y", "-x"];

/** Which way up the model stands: an axis of its file, quarter turns, or a face that is clicked. */
export function OrientPanel({ review, orientation }: { review: Review; orientation: Rows }) {
  const tool = useReview(review, (state) => state.tool);
  const { set, keeper } = review.getState();
  const { turn } = keeper;
  if (!turn) return null;
  const up = upAxis(orientation);
  return (
    <section className="orient">
      <h3>{texts.orientation}</h3>
      <Fact name={texts.up2}>
        <Select<string>
          size="small"
          aria-label={texts.up2}
          value={up}
          onChange={(value) => turn(upTurn(orientation, value.replace("-", "") as Axis, value.startsWith("-")))}
          options={[
            ...(up ? [] : [{ value: "", label: texts.noAxis }]),
            ...UPS.map((own) => ({ value: own, label: texts.axisOfTheFile(own.replace("-", "−")) })),
          ]}
        />
      </Fact>
      <Fact name={texts.quarterTurn}>
        <span className="quarters">
          {(["x", "y", "z"] as Axis[]).map((axis) => (
            <span key={axis}>
              <button type="button" aria-label={texts.turnBack(axis)} title={`Shift ${axis.toUpperCase()}`} onClick={() => turn(quarter(axis, true))}>
                −
              </button>
              {axis}
              <button type="button" aria-label={texts.turnAbout(axis)} title={axis.toUpperCase()} onClick={() => turn(quarter(axis))}>
                +
              </button>
            </span>
          ))}
        </span>
      </Fact>
      <button type="button" className="as-file" aria-pressed={tool === "face"} onClick={() => set({ tool: tool === "face" ? null : "face", refusal: "" })}>
        {texts.turnAFaceTowardMe}
      </button>
    </section>
  );
}
