import { Button, Spin } from "antd";
import { useCallback, useEffect, useRef } from "react";
import type { Edit, Job, Sheet } from "../api/client";
import { useAnnotationReview, useReviewOf, type Field } from "../api/solids";
import { ReviewCanvas } from "../review/ReviewCanvas";
import { ReviewPanel, type Panel } from "../review/ReviewPanel";
import { OrientPanel } from "../review/OrientPanel";
import type { Look, Review } from "../review/state";
import { MainAct } from "../shell/JobFrame";
import { useCommands } from "../common/commands";
import { Ticket } from "../ticket/Ticket";
import { shownBy } from "./captured";
import { lookAfter, useStudioKeeper } from "./useKeeper";
import { standsNow, useKeepFirst } from "./keepFirst";
import { ViewList } from "./ViewList";
import * as texts from "./texts";

interface Props {
  job: Job;
  sheet: Sheet;
  field: Field;
  edit: (edit: Edit) => void;
  leave: () => void;
}

/** Reviews that somebody has looked at. */
const opened = new WeakSet<Review>();

/** How it was looked at before it was turned. */
type Carried = React.RefObject<{ look: Look; front: boolean } | null>;

function Open({ review, field, carried, panel, leave, ...props }: Props & { review: Review; carried: Carried; panel: React.RefObject<Panel> }) {
  const { model } = review.getState();
  const carry = useCallback((look: Look, front: boolean) => void (carried.current = { look, front }), [carried]);
  useStudioKeeper(review, { field, ...props }, carry, leave);
  useEffect(() => {
    if (carried.current) {
      const { look, front } = carried.current;
      opened.add(review);
      carried.current = null;
      const stands = lookAfter(model, look, front, field.size[0] / field.size[1]);
      standsNow(review, stands);
      return review.setState({ look: stands, at: null });
    }
    const first = field.views.find((view) => view.id === field.default) ?? field.views[0];
    const { at } = review.getState();
    // one that was looked at before, and is back by undo or redo, is seen as it was left
    if (at === null && opened.has(review)) return;
    opened.add(review);
    if (first && !field.views.some((view) => view.id === at)) review.setState({ at: first.id, look: shownBy(first, model, field.size[0] / field.size[1]) });
    // once: from then on the list chooses
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [review]);
  const keepFirst = useKeepFirst(review, field, props);
  const back = useCallback(() => keepFirst(leave), [keepFirst, leave]);
  useCommands("field-studio-back", [{ id: "leave-field", title: texts.backToTheSheet, key: "Escape", run: back }]);
  return (
    <>
      <MainAct>
        <Button type="primary" onClick={back}>
          {texts.backToTheSheet}
        </Button>
      </MainAct>
      <div className="field-stage">
        <div style={{ aspectRatio: `${field.size[0]} / ${field.size[1]}` }} className="field-window">
          <ReviewCanvas review={review} />
        </div>
      </div>
      <Ticket title={texts.viewsOf(field.name)} under={texts.turnTheModelThenUpdate}>
        <ReviewPanel
          review={review}
          first={panel.current}
          onPanel={(own) => (panel.current = own)}
          orient={<OrientPanel review={review} orientation={field.choices.orientation} />}
        >
          <ViewList review={review} field={field} keepFirst={keepFirst} {...props} />
        </ReviewPanel>
      </Ticket>
    </>
  );
}

/** A field's prepared views, set by looking: the model as the reader will have it, in a window of the field's shape. */
export function AnnotationStudio(props: Props) {
  const { job, sheet, field, leave } = props;
  const { data, error } = useAnnotationReview(job, sheet, field);
  const { orientation } = field.choices;
  const { data: review, error: lost } = useReviewOf(data?.pack || undefined, orientation);
  const carried: Carried = useRef(null);
  const panel = useRef<Panel>("views");
  const problem = error?.message ?? lost?.message ?? (data?.work?.state === "failed" ? data.work.error : "");
  return (
    <>
      {review ? (
        <Open key={`${data?.pack} ${JSON.stringify(orientation)}`} review={review} carried={carried} panel={panel} {...props} />
      ) : (
        <p className="empty-desk">
          <MainAct>
            <Button type="primary" onClick={leave}>
              {texts.backToTheSheet}
            </Button>
          </MainAct>
          {problem ? <span role="alert">{problem}</span> : <Spin description={data?.work?.text || texts.makingThe3dModel2} />}
        </p>
      )}
    </>
  );
}
