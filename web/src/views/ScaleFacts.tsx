import { Button, Select } from "antd";
import type { Job, Sheet, View, Schemas } from "../api/client";
import { detailOf, excerptOf } from "../api/content";
import { useScales } from "../api/desk";
import { readScale, useTrade } from "../api/queries";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { mm, ratio } from "../paper/geometry";
import * as texts from "./texts";

/** A view's scale: typed, chosen with the size that it gives, or the largest that fits; its own, or taken from above. */
export function ScaleFacts({ job, sheet, view, change }: { job: Job; sheet: Sheet; view: View; change: (fields: Schemas["ViewPatch"]) => void }) {
  const { data: trade } = useTrade();
  const { data: fit } = useScales(job, sheet.id, view);
  const set = (scale: string) => void readScale(scale).then((found) => change({ scale: found.scale }));
  const own = view.overrides.includes("scale");
  const parent = sheet.views.find((v) => v.id === view.parent);
  return (
    <Fact name={texts.scale}>
      <span className="pair">
        <TypedField label={texts.scale} value={view.scale} read={async (text) => (await readScale(text)).scale} onChange={set} />
        <Select
          aria-label={texts.standardScales}
          variant="borderless"
          value={null}
          placeholder={texts.standardScales}
          popupMatchSelectWidth={false}
          onChange={(scale: string | null) => scale && set(scale)}
          options={[
            ...(fit?.preferred ? [{ value: fit.preferred, label: texts.largestStandardScaleThatFits(fit.preferred), key: "preferred" }] : []),
            ...(fit ? [{ value: fit.largest, label: texts.largestThatFits(fit.largest), key: "largest" }] : []),
            ...(job.document.unit === "in" && excerptOf(view) ? (trade?.architectural ?? []) : []).map((s) => ({ value: s, key: s, label: s })),
            ...(trade?.scales ?? []).map((s) => ({
              value: s,
              key: s,
              label: fit ? texts.mm2(s, mm(fit.width * ratio(s), 1), mm(fit.height * ratio(s), 1)) : s,
            })),
          ]}
        />
      </span>
      {!detailOf(view) && (
        <span className="soft small">
          {own ? texts.ownScale : parent ? texts.fromTheView(parent.name) : texts.fromTheSheet}
          {own && (
            <Button type="link" size="small" onClick={() => change({ overrides: view.overrides.filter((o) => o !== "scale") })}>
              {texts.useThatOf} {parent ? texts.itsParent : texts.theSheet}
            </Button>
          )}
        </span>
      )}
    </Fact>
  );
}
