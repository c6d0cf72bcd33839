import type { ComponentType } from "react";
import { factsOf } from "../../../api/events";
import type { Open } from "../context";
import type { PanelID } from "../state";
import { AnnotatePanel } from "./annotate";
import { CheckPanel } from "./check";
import { ClipPanel } from "./clip";
import { FindingsPanel } from "./findings";
import { GroundPanel } from "./ground";
import { NumbersPanel } from "./numbers";
import { TopViewPanel } from "./topview";
import { TrackPanel } from "./track";
import { WhatIfPanel } from "./whatif";
import { t } from "../../../texts/texts";

// The panels beside the stage, in order. A panel is one line here and one file.

export type Panel = {
  id: PanelID;
  label: string;
  key: string;
  Component: ComponentType;
  /** for what events it is offered; all when absent */
  offered?(event: string): boolean;
  /** has tells whether there is what it works on */
  has(w: Open): boolean;
};

const measured = (w: Open) => !!w.evaluation.report;
const onClip = (w: Open) => !!(w.evaluation.ready && w.evaluation.core && w.evaluation.input);

export const panels: Panel[] = [
  { id: "check", label: t("Check"), key: ",", Component: CheckPanel, has: measured },
  { id: "numbers", label: t("Numbers"), key: "q", Component: NumbersPanel, has: measured },
  { id: "findings", label: t("Findings"), key: "w", Component: FindingsPanel, has: measured },
  {
    id: "whatif",
    label: t("What if"),
    key: "e",
    Component: WhatIfPanel,
    offered: (event) => !!factsOf(event).blocks, // asked while the set is on the stage; others in the workshop
    has: onClip,
  },
  {
    id: "topview",
    label: t("Above"),
    key: "i",
    Component: TopViewPanel,
    offered: (event) => !!(factsOf(event).circle || factsOf(event).runway),
    has: (w) => onClip(w) && measured(w),
  },
  { id: "track", label: t("Track"), key: "t", Component: TrackPanel, has: onClip },
  { id: "annotate", label: t("Show"), key: "j", Component: AnnotatePanel, has: onClip },
  {
    id: "ground",
    label: t("Ground"),
    key: "g",
    Component: GroundPanel,
    has: (w) => onClip(w) && !!w.evaluation.catalogue,
  },
  { id: "clip", label: t("Clip"), key: "c", Component: ClipPanel, has: (w) => !!w.clip },
];

export const offered = (event: string) => panels.filter((p) => p.offered?.(event) ?? true);
