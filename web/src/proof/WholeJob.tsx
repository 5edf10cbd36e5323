import { Button } from "antd";
import type { Job } from "../api/client";
import { useWhole } from "../api/drawings";
import { Note } from "../ticket/Ticket";
import { isEmpty } from "../paper/geometry";
import * as texts from "./texts";

/** All sheets of the job in one PDF, in the order of the strip, measured like each of them. */
export function WholeJob({ job }: { job: Job }) {
  const whole = useWhole(job.id);
  const count = job.document.sheets.filter((sheet) => !isEmpty(sheet)).length;
  if (count < 2) return null;
  const readings = whole.data?.pages.flatMap((page) => page.views.flatMap((view) => view.readings ?? [])) ?? [];
  const fails = readings.filter((reading) => !reading.holds).length;
  return (
    <>
      <Button block className="whole" loading={whole.isPending} onClick={() => whole.mutate()}>
        {texts.all3} {count} {texts.sheetsAsOnePdf}
      </Button>
      {whole.data && (
        <Note
          tone={fails ? "error" : "info"}
          title={texts.pagesLengthsMeasuredFailAll(whole.data.pages.length, readings.length, fails ? `${fails} fail` : "all pass")}
        />
      )}
    </>
  );
}
