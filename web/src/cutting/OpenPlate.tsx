import { Button } from "antd";
import { useCallback, useEffect } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { listOf, useArranging, type Arrangement } from "../api/cutting";
import type { Edit, Job, Sheet } from "../api/client";
import { newId } from "../common/ids";
import { useEdit } from "../api/queries";
import { useTell } from "../api/tell";
import { useCommands } from "../common/commands";
import { useNudge } from "../common/useNudge";
import { Desk } from "../desk/Desk";
import { isEmpty, whyEmpty } from "../paper/geometry";
import { MainAct } from "../shell/JobFrame";
import { inPart } from "./nearness";
import { PlateLayer } from "./PlateLayer";
import { PlateTicket } from "./PlateTicket";
import "./cutting.css";
import * as texts from "./texts";

/** How long is looked for a first arrangement, s. */
const FIRST = 10;
const AGAIN = 20;
const NOTES = { fresh: null, onFresh: () => {}, onText: () => {}, onMove: () => {} };
const nothing = () => {};

/** A plate on the Sheets stop: its parts to arrange, drag, turn and pin. */
export function OpenPlate({ job, sheet }: { job: Job; sheet: Sheet }) {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const change = useEdit(job.id);
  const tell = useTell();
  const edit = (made: Edit) => change.mutate(made);
  const list = listOf(job, sheet);
  const listId = list?.id ?? "";
  const lay = useCallback(
    (found: Arrangement) => {
      if (!found.contents?.length) return;
      change.mutate({ kind: "lay_parts", cut_list: listId, contents: found.contents });
      const first = found.left[0];
      if (first) tell(new Error(texts.leftOver(first.count, first.name, first.why)));
    },
    [change, listId, tell],
  );
  const arranging = useArranging(job.id, listId, lay);
  const { start } = arranging;
  const fresh = search.has("arrange");
  useEffect(() => {
    if (!fresh || !listId) return;
    setSearch({}, { replace: true });
    start(FIRST);
  }, [fresh, listId, start, setSearch]);
  const part = sheet.cutting?.placed.find((own) => own.id === search.get("part"));
  const name = list?.parts.find((own) => own.id === part?.part)?.name ?? "";
  const drawn = search.get("drawn");
  const select = (id: string | null, shown?: string | null) => setSearch({ ...(id && { part: id }), ...(shown && { drawn: shown }) }, { replace: true });
  const put = (fields: { x?: number; y?: number; turn?: number; pinned?: boolean }) =>
    part && edit({ kind: "change_profile", sheet: sheet.id, profile: part.id, fields });
  const proof = () => void navigate(`/jobs/${job.id}/proof/${sheet.id}?make`);
  const table = () => {
    // the server fills in what a fresh sheet has
    const fresh = { id: newId(), name: texts.platesOf(list?.name ?? ""), format: "A4", plates_table: { cut_list: listId, place: null } } as Sheet;
    change.mutate({ kind: "add_sheet", sheet: fresh }, { onSuccess: () => void navigate(`/jobs/${job.id}/sheets/${fresh.id}`) });
  };
  const takeOff = () => {
    if (!part) return;
    select(null);
    edit({ kind: "remove_profile", sheet: sheet.id, profile: part.id });
  };
  const own = (part ? list?.parts.find((other) => other.id === part.part)?.decorations : sheet.cutting?.decorations)?.find((other) => other.id === drawn);
  const shown = own && { sheet: sheet.id, part: part?.part ?? "", decoration: own.id };
  const takeDrawnOff = () => {
    if (!shown) return;
    select(part?.id ?? null);
    edit({ kind: "remove_decoration", ...shown });
  };
  useNudge(!!part || !!own, (by) => {
    const [dx, dy] = own && part ? inPart(by, part.turn) : by;
    if (own && shown) edit({ kind: "change_decoration", ...shown, fields: { x: own.x + dx, y: own.y + dy } });
    else if (part) put({ x: part.x + dx, y: part.y + dy });
  });
  useCommands("plate", [
    { id: "proof", title: texts.proofThisSheet, run: proof },
    ...(arranging.running
      ? [{ id: "stop-arranging", title: texts.stopAndKeep, run: arranging.stop }]
      : [{ id: "arrange", title: texts.arrangeThePartsOf(list?.name ?? ""), key: "L", run: () => start(AGAIN) }]),
    ...(own
      ? [
          { id: "remove-drawn", title: texts.takeOffWhatIsDrawn, key: "Delete", run: takeDrawnOff },
          { id: "leave-drawn", title: texts.leaveWhatIsDrawn, key: "Escape", run: () => select(part?.id ?? null) },
        ]
      : []),
    ...(part && !own
      ? [
          { id: "turn-part", title: texts.turnPart(name), key: "T", run: () => put({ turn: (part.turn + 90) % 360 }) },
          { id: "pin-part", title: part.pinned ? texts.unpin(name) : texts.pin(name), key: "N", run: () => put({ pinned: !part.pinned }) },
          { id: "remove-part", title: texts.takeOffPart(name), key: "Delete", run: takeOff },
          { id: "leave-part", title: texts.leavePart(name), key: "Escape", run: () => select(null) },
        ]
      : []),
  ]);
  return (
    <>
      <MainAct>
        <Button type="primary" onClick={proof} disabled={isEmpty(sheet)} title={whyEmpty(sheet)}>
          {texts.proofThisSheet}
        </Button>
      </MainAct>
      <Desk
        job={job}
        sheet={sheet}
        selected={null}
        also={[]}
        onSelect={(id) => id === null && select(null)}
        onMove={nothing}
        onComponents={nothing}
        onCopy={nothing}
        onRemove={nothing}
        onTitle={nothing}
        onNote={nothing}
        onDimension={nothing}
        onRegion={nothing}
        onShift={nothing}
        notes={NOTES}
        fields={(paper, zoom) => (
          <PlateLayer
            job={job}
            sheet={sheet}
            paper={paper}
            zoom={zoom}
            selected={part?.id}
            drawn={drawn}
            found={arranging.running ? arranging.found?.contents : undefined}
            edit={edit}
            onSelect={select}
          />
        )}
      />
      <PlateTicket job={job} sheet={sheet} part={part?.id} drawn={drawn} arranging={arranging} edit={edit} onPart={select} onTable={table} />
    </>
  );
}
