import { ask, client, type News } from "../../api/client";
import { settings } from "../../settings/settings";
import { t } from "../../texts/texts";

/** canTell: whether this browser can be asked to show notifications at all. */
export const canTell = () => "Notification" in globalThis && isSecureContext;

/** allow asks the browser for leave; it is only asked by the coach's own click. */
export const allow = async () => canTell() && (await Notification.requestPermission()) === "granted";

let since: string | undefined;
let drafted = 0;
let asking = false;

/** tellNews shows what came in since the last time, if the coach wants to be told: what athletes
 * wrote back, and that the drafts of an evening are done, once for all of them. */
export async function tellNews() {
  const wish = settings().notify;
  if (wish === "none" || !canTell() || Notification.permission !== "granted") return void (since = undefined);
  if (asking) return;
  asking = true;
  try {
    const news = await ask(client.GET("/news", { params: { query: { since } } }));
    since = news.at;
    await show(news, wish === "all");
  } catch {
    // What could not be asked now is told with the next change.
  } finally {
    asking = false;
  }
}

async function show(news: News, drafts: boolean) {
  for (const a of news.answers)
    await notify(t("{name} wrote back", { name: a.athlete }), a.says, `/attempt/${a.attempt_id}/feedback`);
  drafted += news.drafted;
  if (drafted === 0 || news.drafting > 0) return;
  if (drafts)
    await notify(
      drafted === 1 ? t("One clip is drafted") : t("{drafted} clips are drafted", { drafted }),
      t("They can be looked at now."),
      "/",
    );
  drafted = 0;
}

// Phones show notifications only from a service worker, which opens what they are of.
async function notify(title: string, body: string, opens: string) {
  const worker = await navigator.serviceWorker?.getRegistration();
  const how = { body, tag: opens, icon: "/icon-192.png", data: opens };
  if (worker) return worker.showNotification(title, how);
  new Notification(title, how).onclick = () => {
    window.focus();
    location.assign(opens);
  };
}
