import { Box, Text } from "@chakra-ui/react";
import type { Stereo } from "../../../../api/client";
import { Head } from "../../../../ui/parts";
import { t } from "../../../../texts/texts";
import { fixed } from "../../../../ui/written";

const columns = {
  left_knee: t("left knee"),
  right_knee: t("right knee"),
  left_elbow: t("left elbow"),
  right_elbow: t("right elbow"),
};

/** Joints: true angles of knees and elbows from two clips, position by position, and what the first clip alone shows. */
export function Joints({ joints, attempt }: { joints: Stereo["joints"]; attempt: string }) {
  const rows = [...new Set(joints.map((j) => j.position))].map((p) => joints.filter((j) => j.position === p));
  if (rows.length === 0) return null;
  return (
    <Box data-testid="joints" mb="10px">
      <Head
        tone="chalk"
        right={
          <a href={`/api/attempts/${attempt}/space.c3d`} download style={{ fontSize: "12px" }}>
            {t("places as C3D")}
          </a>
        }
      >
        {t("Joints in space")}
      </Head>
      <Text fontSize="12px" color="quiet" mb="4px">
        {t("True angles, degrees, from both clips; small: what the first clip alone shows.")}
      </Text>
      <Box maxH="240px" overflowY="auto" tabIndex={0} role="region" aria-label={t("Joints in space")}>
        <Box
          as="table"
          w="100%"
          fontSize="12px"
          css={{
            "& td, & th": { textAlign: "right", padding: "2px 3px", fontWeight: 400 },
            "& th": { color: "quiet", fontSize: "11px", verticalAlign: "bottom" },
            "& td:first-of-type, & th:first-of-type": { textAlign: "left" },
            "& small": { color: "quiet", marginLeft: "4px" },
          }}
        >
          <thead>
            <tr>
              <th>{t("position")}</th>
              {Object.values(columns).map((c) => (
                <th key={c}>{c}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row[0].position}>
                <td>{row[0].label}</td>
                {Object.keys(columns).map((c) => {
                  const j = row.find((x) => x.joint === c);
                  return (
                    <td
                      key={c}
                      title={
                        j &&
                        t("±{half95}°, the first clip alone {flat}°", {
                          half95: fixed(j.angle.half95, 0),
                          flat: fixed(j.flat, 0),
                        })
                      }
                    >
                      {j ? (
                        <>
                          {fixed(j.angle.value, 0)} ±{fixed(j.angle.half95, 0)}
                          <small>{fixed(j.flat, 0)}</small>
                        </>
                      ) : (
                        "–"
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
    </Box>
  );
}
