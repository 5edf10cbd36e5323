import { memo } from "react";
import { drawnOnPlates, listOf, useProfiles, type DecorationPicture, type PlacedProfile, type ProfilePicture } from "../api/cutting";
import type { Job, Sheet } from "../api/client";
import type { PaperSize } from "./geometry";
import "./plate.css";

/** Where a part lies: turned over, then turned, then moved, mm, y up. */
export const lying = (placed: Pick<PlacedProfile, "x" | "y" | "turn" | "flipped">) =>
  `translate(${placed.x} ${placed.y}) rotate(${placed.turn})${placed.flipped ? " scale(-1 1)" : ""}`;

/** A part's profile: what is cut, and its marks. */
export const ProfileShape = memo(function ProfileShape({ profile }: { profile: ProfilePicture }) {
  return (
    <>
      <path className="profile-cut" d={profile.cut} fillRule="evenodd" vectorEffect="non-scaling-stroke" />
      {profile.marks.map((mark, index) => (
        <path key={index} className={`profile-mark ${mark.operation}`} d={mark.path} vectorEffect="non-scaling-stroke" />
      ))}
    </>
  );
});

/** What is drawn on a part or a plate. */
export const DecorationShape = memo(function DecorationShape({ drawn }: { drawn: DecorationPicture }) {
  return (
    <>
      <path className={`drawn-areas ${drawn.operation}`} d={drawn.areas} />
      <path className="drawn-pictures" d={drawn.pictures} vectorEffect="non-scaling-stroke" />
      <path className={`profile-mark ${drawn.operation}`} d={drawn.strokes} vectorEffect="non-scaling-stroke" />
    </>
  );
});

/** The parts of a plate as they lie, small. */
export function PlateOnPaper({ job, sheet, paper, zoom }: { job: Job; sheet: Sheet; paper: PaperSize; zoom: number }) {
  const { data } = useProfiles(job.id, listOf(job, sheet), drawnOnPlates(job, sheet));
  const own = new Set(sheet.cutting?.decorations.map((decoration) => decoration.id));
  return (
    <g transform={`translate(0 ${paper.height * zoom}) scale(${zoom} ${-zoom})`}>
      {sheet.cutting?.placed.map((placed) => {
        const profile = data?.profiles?.[placed.part];
        return (
          profile && (
            <g key={placed.id} transform={lying(placed)}>
              <ProfileShape profile={profile} />
              {!placed.flipped && profile.decorations.map((drawn) => <DecorationShape key={drawn.id} drawn={drawn} />)}
            </g>
          )
        );
      })}
      {data?.on_plates.map((drawn) => own.has(drawn.id) && <DecorationShape key={drawn.id} drawn={drawn} />)}
    </g>
  );
}
