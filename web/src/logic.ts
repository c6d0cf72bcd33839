// The logic of the front end without its screens, for tests: they call it in a browser
// on an empty page (e2e/logic_test.go).
import * as address from "./features/workspace/address";
import * as keys from "./settings/keys";
import * as settings from "./settings/settings";
import * as texts from "./texts/texts";
import * as recall from "./ui/recall";
import * as written from "./ui/written";
import * as next from "./features/workspace/next";
import * as reckon from "./features/workshop/reckon";
import * as commands from "./features/workspace/commands";
import * as player from "./features/workspace/stage/player";
import * as view from "./features/workspace/stage/view";
import * as school from "./features/workspace/school";
import * as state from "./features/workspace/state";
import * as span from "./features/workspace/timeline/span";
import * as edits from "./features/workspace/work/edits";
import * as outbox from "./features/workspace/work/outbox";
import * as tracks from "./features/workspace/work/tracks";

Object.assign(window, {
  logic: {
    address,
    keys,
    settings,
    texts,
    recall,
    written,
    next,
    commands,
    player,
    view,
    school,
    reckon,
    state,
    span,
    edits,
    outbox,
    tracks,
  },
});
