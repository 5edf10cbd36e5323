import { Button } from "antd";
import { Component, lazy, type ComponentType, type ReactNode } from "react";
import { Stopped } from "./Stopped";
import * as texts from "./texts";

const left: (() => Promise<unknown>)[] = [];

/** A part of the page that comes as a file of its own: when it is first shown, or as soon as there is nothing else to do. */
export function part<Props extends object>(load: () => Promise<ComponentType<Props>>) {
  left.push(load);
  return lazy(async () => ({ default: await load() }));
}

/** Fetch all parts that are not there yet, one after the other: a stop that is opened later opens at once, whatever the network does then. */
export async function fetchTheRest() {
  // one that comes may bring further ones
  for (let load = left.shift(); load; load = left.shift()) await load().catch(() => undefined);
}

/** Tells when a part of the page could not be fetched. */
export class Whole extends Component<{ children: ReactNode }, { failed: boolean }> {
  state = { failed: false };

  static getDerivedStateFromError(error: unknown) {
    // what a browser says of a file of script that does not come; anything else is ours to see
    if (error instanceof TypeError && /import|module/i.test(error.message)) return { failed: true };
    throw error;
  }

  render() {
    if (!this.state.failed) return this.props.children;
    return (
      <Stopped title={texts.aPartOfThePage} text={texts.skaltoMayHaveBeenStopped}>
        <Button type="primary" onClick={() => window.location.reload()}>
          {texts.loadThePageAgain}
        </Button>
      </Stopped>
    );
  }
}
