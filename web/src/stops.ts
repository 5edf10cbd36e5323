import { issueStop } from "./issue/stop";
import { partsStop } from "./parts/stop";
import { pensStop } from "./pens/stop";
import { proofStop } from "./proof/stop";
import type { Stop } from "./shell/stop";
import { releaseStop } from "./release/stop";
import { sheetsStop } from "./sheets/stop";
import { sourceStop } from "./source/stop";

/** The stops in the order of the work. A feature that has one of its own adds it here. */
export const STOPS: readonly Stop[] = [sourceStop, partsStop, sheetsStop, pensStop, proofStop, issueStop, releaseStop];
