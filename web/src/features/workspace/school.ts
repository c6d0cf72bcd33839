import type { Model } from "../../api/client";
import { factsOf } from "../../api/events";
import type { Settings } from "../../settings/settings";

/** bySchool names the phases of a model as the coach's school does. */
export function bySchool(model: Model, school: Settings["phases"]): Model {
  const names = factsOf(model.id).supports as Record<string, string> | undefined;
  if (school === "task" || !names) return model;
  const group = model.repeat?.phases.map((p) => p.id) ?? [];
  const named = <P extends { id: string; name: string }>(p: P): P => {
    // Of a group that comes again the number of the time stands behind.
    const of = group.find((g) => p.id.startsWith(g) && /^\d+$/.test(p.id.slice(g.length)));
    if (of && names[of]) return { ...p, name: `${names[of]} ${p.id.slice(of.length)}` };
    return { ...p, name: names[p.id] ?? p.name };
  };
  return {
    ...model,
    phases: model.phases.map(named),
    ...(model.repeat && { repeat: { ...model.repeat, phases: model.repeat.phases.map(named) } }),
  };
}
