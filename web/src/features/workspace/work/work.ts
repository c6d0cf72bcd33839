import { useCallback, useEffect, useRef, useState } from "react";
import { ask, client, Failure, type Edit, type Workspace } from "../../../api/client";
import { apply, valueAt } from "./edits";
import * as outbox from "./outbox";
import { t } from "../../../texts/texts";

// The coach's work on one attempt: shown at once, saved as made, kept in the
// browser until the server has it. Nothing is lost by a closed lid, a lost
// connection or a second tab.

export type Saving = { state: "saved" | "saving" | "kept"; says?: string };

/** A change that the server fails on so often is set aside: what comes behind it must be saved. */
const mostFailures = 4;

export function useWork(sheet: Workspace) {
  const id = sheet.attempt.id;
  const [work, setWork] = useState(sheet.work);
  const [saving, setSaving] = useState<Saving>({ state: "saved" });
  const base = useRef(sheet.work); // as the server has it
  const queue = useRef<outbox.Pending[]>([]);
  const taken = useRef(false); // what was kept before; until then nothing is put over it
  const sending = useRef(false);
  const wishes = useRef<("undo" | "redo")[]>([]); // what waits until all is saved
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);

  const show = useCallback(() => {
    setWork(queue.current.flatMap((p) => p.edits).reduce(apply, base.current));
    if (taken.current) void outbox.put(id, () => queue.current);
  }, [id]);

  const flush = useCallback(async () => {
    if (sending.current || !queue.current.length) return;
    sending.current = true;
    queue.current[0].tried = true;
    clearTimeout(timer.current);
    // What a coach was told of a change that is lost stays until it is read.
    setSaving((s) => (s.state === "kept" ? s : { ...s, state: "saving" }));
    const path = { params: { path: { id } } };
    let wait = 0;
    try {
      const first = queue.current[0];
      const saved = await ask(
        client.POST("/attempts/{id}/edits", {
          ...path,
          body: { base: base.current.revision, edits: first.edits, merge_with_previous: first.join },
        }),
      );
      base.current = { ...first.edits.reduce(apply, base.current), ...saved };
      queue.current.shift();
      const state = queue.current.length ? "saving" : "saved";
      setSaving((s) => (s.state === "kept" ? { state } : { ...s, state }));
    } catch (e) {
      const f = e as Failure;
      if (f.kind === "newer_work") {
        try {
          const now = (await ask(client.GET("/attempts/{id}/workspace", path))).work;
          // What nobody else touched goes on top of the newer work; the rest gives way.
          const { queue: left, gave } = outbox.rebase(queue.current, now);
          queue.current = left;
          base.current = now;
          setSaving({
            state: "saved",
            says: gave
              ? t(
                  "Another tab or a colleague changed this attempt. The newer work stays; {gave} of your changes touched the same things and gave way. Make them again if you want them.",
                  { gave },
                )
              : t("Another tab changed this attempt too; both are kept."),
          });
        } catch {
          wait = 2000;
        }
      } else if (
        f.kind === "internal" &&
        (queue.current[0].failed = (queue.current[0].failed ?? 0) + 1) >= mostFailures
      ) {
        queue.current.shift();
        setSaving({
          state: "saved",
          says: t(
            "The server fails on one of your changes, which is left out; what you did after it is saved. Make it again another way. ({message})",
            { message: f.message },
          ),
        });
      } else if (f.passing || f.kind === "signed_out" || f.kind === "no_room" || f.kind === "internal") {
        wait = 2000 * 2 ** Math.min(queue.current[0].failed ?? 0, 4);
        setSaving({ state: "kept", says: f.message });
      } else {
        // Refused: this change can never be saved. Show why, keep the others.
        queue.current.shift();
        setSaving({ state: "saved", says: f.message });
      }
    }
    sending.current = false;
    show();
    if (queue.current.length) timer.current = setTimeout(() => void flush(), wait);
  }, [id, show]);

  const push = useCallback(
    (edits: Edit[], join: boolean) => {
      if (!edits.length) return;
      const now = queue.current.flatMap((p) => p.edits).reduce(apply, base.current);
      queue.current.push({ edits, was: edits.map((e) => valueAt(now, e)), join });
      show();
      void flush();
    },
    [flush, show],
  );
  const edit = useCallback((...edits: Edit[]) => push(edits, false), [push]);
  /** go on with the change before: both are undone together. */
  const more = useCallback((...edits: Edit[]) => push(edits, true), [push]);

  const replay = useCallback(
    async (what: "undo" | "redo") => {
      // A change that the server was never asked for is taken back here; one that it may have
      // waits until it has.
      if (what === "undo" && queue.current.length && !queue.current.at(-1)!.tried) {
        while (queue.current.pop()!.join && queue.current.length && !queue.current.at(-1)!.tried);
        return show();
      }
      if (queue.current.length || sending.current) {
        wishes.current.push(what);
        setSaving((s) => ({
          ...s,
          says: s.says ?? t("The last change is still being saved; {what} follows it.", { what }),
        }));
        return;
      }
      sending.current = true;
      try {
        const call = { params: { path: { id } }, body: { base: base.current.revision } };
        const { edits, ...saved } = await ask(
          what === "undo" ? client.POST("/attempts/{id}/undo", call) : client.POST("/attempts/{id}/redo", call),
        );
        base.current = { ...edits.reduce(apply, base.current), ...saved };
        setSaving({ state: "saved" });
      } catch (e) {
        if ((e as Failure).kind === "newer_work") {
          const fresh = await ask(client.GET("/attempts/{id}/workspace", { params: { path: { id } } })).catch(
            () => undefined,
          );
          if (fresh) base.current = fresh.work;
        }
        setSaving({ state: "saved", says: (e as Error).message });
      }
      sending.current = false;
      show();
      if (wishes.current.length) void replay(wishes.current.shift()!);
    },
    [id, show],
  );
  useEffect(() => {
    // All is saved: what was wished meanwhile is done.
    if (saving.state === "saved" && !queue.current.length && !sending.current && wishes.current.length)
      void replay(wishes.current.shift()!);
  }, [saving, replay]);
  useEffect(() => {
    const again = () => void flush();
    addEventListener("online", again);
    return () => removeEventListener("online", again);
  }, [flush]);

  /** kept waits until the server has everything; what reads tracks there needs it. */
  const kept = useCallback(async () => {
    for (let i = 0; queue.current.length || sending.current; i++) {
      if (i > 600)
        throw new Failure("offline", t("What was drafted is not saved yet. Wait for the connection, then try again."));
      await new Promise((ok) => setTimeout(ok, 50));
    }
  }, []);

  useEffect(() => {
    // What an earlier visit, or a tab that has gone, could not save is taken up again.
    let left = false;
    void outbox.take(id).then((list) => {
      const { queue: late, gave } = outbox.rebase(list, base.current);
      if (left) return void outbox.put(id, () => [...late, ...queue.current]); // closed at once: the next visit does it
      taken.current = true;
      queue.current = [...late, ...queue.current];
      if (gave)
        setSaving({
          state: "saving",
          says: t(
            "The attempt was changed since: {gave} of the changes that were kept in this browser touched the same things and gave way. Make them again if you want them.",
            { gave },
          ),
        });
      show();
      void flush();
    });
    return () => {
      left = true;
      clearTimeout(timer.current);
    };
  }, [id, show, flush]);

  useEffect(() => {
    // New clips bring new places for work; anything else newer is fetched on conflict.
    if (sheet.work.revision >= base.current.revision) {
      base.current = sheet.work;
      show();
    }
  }, [sheet.work, show]);

  // None of these may change while a joint is dragged: buttons are drawn anew with them.
  const undo = useCallback(() => void replay("undo"), [replay]);
  const redo = useCallback(() => void replay("redo"), [replay]);
  const dismiss = useCallback(() => setSaving((s) => ({ state: s.state })), []);
  return { work, edit, more, kept, saving, dismiss, undo, redo };
}
