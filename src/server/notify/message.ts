import { LEVEL_WORDS } from "../../core/rules/rule";
import {
  type AlertFacts,
  alertSentence,
  subjectWords,
  thresholdWords,
  valueWords,
} from "../../core/rules/sentence";
import { formatDuration } from "../../core/units/quantity";
import type { alerts } from "../db/schema";

type Alert = typeof alerts.$inferSelect;

export interface Message {
  subject: string;
  text: string;
  html: string;
}

export function factsOf(alert: Alert): AlertFacts {
  const silence = alert.condition === "silence";
  return {
    condition: alert.condition,
    metric: alert.rule.metric,
    place: alert.place,
    labels: alert.labels,
    comparison: silence ? ">" : alert.rule.comparison,
    threshold: silence ? (alert.rule.noDataMs ?? 0) / 1000 : alert.rule.value,
    unit: alert.unit,
    combine: alert.rule.combine,
  };
}

/** The mail about one event of an alert, from the alert as it is now. */
export function alertMessage(alert: Alert, event: "raised" | "cleared", publicUrl: string): Message {
  const facts = factsOf(alert);
  const link = `${publicUrl.replace(/\/$/, "")}/respond/alerts/${alert.id}`;
  const raisedAt = alert.raisedAt ?? alert.since;
  const level = LEVEL_WORDS[alert.level];
  const rows: [string, string][] = [
    ["System", alert.place],
    ["Rule", alert.ruleName],
    ["Expected of you", event === "raised" ? level : "nothing more"],
    ["Limit", thresholdWords(facts)],
    ["Value at raise", valueWords(facts, alert.valueAtRaise ?? alert.lastValue)],
    ["Since", utc(alert.since)],
    ["Raised", `${utc(raisedAt)}, after ${formatDuration(raisedAt - alert.since)}`],
  ];
  if (event === "cleared") {
    const clearedAt = alert.clearedAt ?? alert.lastTime;
    rows.push(["Cleared", utc(clearedAt)], ["Lasted", formatDuration(clearedAt - alert.since)]);
    rows.push(
      ["Worst value", valueWords(facts, alert.worstValue)],
      ["Last value", valueWords(facts, alert.lastValue)],
    );
  }
  const lead =
    event === "raised"
      ? `${capital(alertSentence(facts, alert.valueAtRaise ?? alert.lastValue))}.`
      : `It is over: ${subjectWords(facts)} is back within its limit.`;
  const advice = event === "raised" ? alert.rule.advice.trim() : "";
  return {
    subject: `${event === "raised" ? capital(level) : "Cleared"}: ${alert.ruleName} (${subjectWords(facts)})`,
    text: `${[lead, ...(advice ? [advice] : []), rows.map(([k, v]) => `${`${k}:`.padEnd(17)}${v}`).join("\n"), link].join("\n\n")}\n`,
    html: html(lead, advice, rows, link),
  };
}

function html(lead: string, advice: string, rows: [string, string][], link: string): string {
  const cell = 'style="padding:2px 16px 2px 0;text-align:left;vertical-align:top"';
  return `<!doctype html>
<html lang="en"><body style="font-family:sans-serif;color:#20302C;background:#FAF6EC;padding:16px">
<p style="font-size:17px;font-weight:bold">${escapeHtml(lead)}</p>
${advice ? `<p>${escapeHtml(advice).replace(/\n/g, "<br>")}</p>` : ""}
<table style="border-collapse:collapse">
${rows.map(([k, v]) => `<tr><th scope="row" ${cell}>${escapeHtml(k)}</th><td ${cell}>${escapeHtml(v)}</td></tr>`).join("\n")}
</table>
<p><a href="${escapeHtml(link)}" style="color:#1E5A4C">Open the alert</a></p>
</body></html>
`;
}

function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
}

function utc(time: number): string {
  return `${new Date(time).toISOString().slice(0, 19).replace("T", " ")} UTC`;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
