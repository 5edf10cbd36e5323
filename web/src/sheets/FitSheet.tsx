import { Button } from "antd";
import { useState } from "react";
import type { Job, Sheet } from "../api/client";
import { useFit } from "../api/desk";
import { readInUnit } from "../api/queries";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { isEmpty, mm, whyEmpty } from "../paper/geometry";
import * as texts from "./texts";

/** Cuts a sheet's format to what lies on it, with a margin that is typed. */
export function FitSheet({ job, sheet }: { job: Job; sheet: Sheet }) {
  const [margin, setMargin] = useState("10");
  const fit = useFit(job.id, sheet.id);
  const empty = isEmpty(sheet);
  return (
    <Fact name={texts.toContents}>
      <span className="pair">
        <TypedField length label={texts.marginAroundTheContents} value={margin} read={async (text) => mm((await readInUnit(text)).mm)} onChange={setMargin} />
        <Button size="small" disabled={empty} title={whyEmpty(sheet)} loading={fit.isPending} onClick={() => fit.mutate(Number(margin))}>
          {texts.fitTheSheet}
        </Button>
      </span>
    </Fact>
  );
}
