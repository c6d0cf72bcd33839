import { Link as RouterLink } from "react-router";
import { t } from "../../texts/texts";
import { useDrills, useOwnDrills } from "./api";

/** DrillName is a drill's name; it leads to how it goes where the library or the team has it. */
export function DrillName({ name, says }: { name: string; says?: string }) {
  const drills = useDrills();
  const own = useOwnDrills();
  const found = [...(own.data ?? []), ...(drills.data ?? [])].find((d) => d.name === name);
  if (!found) return says ? null : name;
  return (
    <RouterLink
      to={`/drills?drill=${found.id}`}
      className="above"
      title={t("How it goes")}
      style={{ display: "inline-block", minHeight: 24, textDecoration: "underline", textUnderlineOffset: 3 }}
    >
      {says ?? name}
    </RouterLink>
  );
}
