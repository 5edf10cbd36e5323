import type { PDFDocumentProxy } from "pdfjs-dist";
import { useEffect, useState } from "react";
import * as texts from "./texts";

export type LayerConfig = Awaited<ReturnType<PDFDocumentProxy["getOptionalContentConfig"]>>;

/** The file's own layer switches, as it has them. */
export function useLayers(document: PDFDocumentProxy | null) {
  const [config, setConfig] = useState<LayerConfig | null>(null);
  const [turned, setTurned] = useState(0);
  useEffect(() => {
    let left = false;
    setConfig(null);
    void document?.getOptionalContentConfig().then((found) => !left && setConfig(found));
    return () => {
      left = true;
    };
  }, [document]);
  const turn = (id: string, shown: boolean) => {
    config?.setVisibility(id, shown);
    setTurned((n) => n + 1);
  };
  return { config, turned, turn };
}

export function LayersPanel({ config, turn }: { config: LayerConfig | null; turn: (id: string, shown: boolean) => void }) {
  const order = (config?.getOrder() ?? []) as unknown[];
  const ids = order.filter((id): id is string => typeof id === "string");
  if (!config) return <p className="soft">{texts.openingTheFile}</p>;
  if (!ids.length) return <p className="soft">{texts.thisFileHasNoLayers}</p>;
  return (
    <ul className="rows" aria-label={texts.layersOfTheFile}>
      {ids.map((id) => {
        const group = config.getGroup(id) as { name: string; visible: boolean } | null;
        if (!group) return null;
        return (
          <li key={id}>
            <label className="layer-row">
              <input type="checkbox" checked={group.visible} onChange={(event) => turn(id, event.target.checked)} aria-label={texts.show2(group.name)} />
              {group.name}
            </label>
          </li>
        );
      })}
    </ul>
  );
}
