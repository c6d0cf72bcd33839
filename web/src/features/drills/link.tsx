import { Link as RouterLink } from "react-router";
import { t } from "../../texts/texts";

/** DrillName is a drill's name, or other words, that lead to how it goes. */
export const DrillName = ({ name, says }: { name: string; says?: string }) =>
  name ? (
    <RouterLink to={`/drills?drill=${encodeURIComponent(name)}`} className="tap" title={t("How it goes")}>
      {says ?? name}
    </RouterLink>
  ) : null;
