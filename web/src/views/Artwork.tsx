import { Button } from "antd";
import { useArtwork } from "../api/drawings";
import { Section } from "../ticket/Ticket";
import * as texts from "./texts";

/** A sheet, or one view of it, out again as a drawing: true circles and layers in DXF, physical size in SVG. */
export function Artwork({ job, sheet, view, what }: { job: number; sheet: string; view?: string; what: string }) {
  const artwork = useArtwork(job, sheet);
  const suffixes = ["dxf", "svg"] as const;
  return (
    <Section title={texts.saveAsADrawing(what)}>
      <span className="pair">
        {suffixes.map((suffix) => (
          <Button key={suffix} size="small" loading={artwork.isPending && artwork.variables.suffix === suffix} onClick={() => artwork.mutate({ suffix, view })}>
            {suffix.toUpperCase()}
          </Button>
        ))}
      </span>
    </Section>
  );
}
