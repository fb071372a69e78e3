"use client";

import { Box, Flex, Grid } from "@chakra-ui/react";
import type { SourceKind } from "@/core/kits";
import type { SourceSummary } from "@/server/services/sources";
import { SelectField, TextField } from "../TextField";
import { LabelRules } from "./LabelRules";

export type Options = SourceSummary["options"];

export interface SourceForm {
  address: string;
  password: string;
  timeout: string;
  options: Options;
}

const HTTP: SourceKind[] = ["openmetrics", "amqp", "kubernetes"];
const WITH_PARTS: SourceKind[] = ["amqp", "kubernetes", "postgresql"];

/** How a source is reached: address, credentials, TLS, and what becomes of what it sends. */
export function SourceFields(props: {
  kind: SourceKind;
  form: SourceForm;
  onChange(part: Partial<SourceForm>): void;
  faults: Record<string, string>;
  example: string;
  hasCredential?: boolean;
}) {
  const { kind, form, onChange, faults, example } = props;
  const { options } = form;
  const set = (part: Partial<Options>) => onChange({ options: { ...options, ...part } });
  const http = HTTP.includes(kind);
  const database = kind === "postgresql" || kind === "sql";
  const auth = options.auth ?? "none";
  const secret = database || (http && auth !== "none");
  const rulesFault = Object.entries(faults).find(([field]) => field.startsWith("options.labelRules"))?.[1];
  if (kind === "push") return null;
  return (
    <Flex direction="column" gap="12px">
      <TextField
        label="Address"
        value={form.address}
        onChange={(address) => onChange({ address })}
        placeholder={example}
        error={faults.address}
      />
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr 1fr" }} gap="12px" alignItems="start">
        {http && (
          <SelectField
            label="Credentials"
            value={auth}
            onChange={(value) => set({ auth: value as Options["auth"] })}
            options={[
              ["none", "none"],
              ["basic", "user and password"],
              ["bearer", "bearer token"],
            ]}
          />
        )}
        {http && auth === "basic" && (
          <TextField
            label="User"
            value={options.user ?? ""}
            onChange={(user) => set({ user })}
            error={faults["options.user"]}
          />
        )}
        {secret && (
          <TextField
            label={auth === "bearer" ? "Token" : "Password"}
            type="password"
            value={form.password}
            onChange={(password) => onChange({ password })}
            error={faults.password}
            help={
              props.hasCredential
                ? "One is stored; left empty, it stays."
                : "Stored encrypted and never shown again."
            }
          />
        )}
        <TextField
          label="Give up after"
          value={form.timeout}
          onChange={(timeout) => onChange({ timeout })}
          error={faults.timeoutMs}
        />
      </Grid>
      {kind === "sql" && (
        <>
          <TextField
            label="Query"
            lines={5}
            value={options.query ?? ""}
            onChange={(query) => set({ query })}
            placeholder="SELECT route, count(*) AS sailings, avg(free) AS free_seats FROM sailing GROUP BY route"
            error={faults["options.query"]}
            help="Columns of numbers become metrics, the others labels. It runs in a read-only transaction."
          />
          <TextField
            label="Names of its metrics begin with"
            value={options.metricPrefix ?? ""}
            onChange={(metricPrefix) => set({ metricPrefix: metricPrefix || undefined })}
            placeholder="bookings"
            error={faults["options.metricPrefix"]}
          />
        </>
      )}
      <Box as="details">
        <Box as="summary" cursor="pointer" fontWeight="600" fontSize="14px">
          More: encryption, label rules, discovery, budget
        </Box>
        <Flex direction="column" gap="12px" pt="10px">
          {(http || database) && (
            <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="12px">
              <TextField
                label="Its certificate is issued to"
                value={options.tls?.serverName ?? ""}
                onChange={(serverName) =>
                  set({ tls: { ...options.tls, serverName: serverName || undefined } })
                }
                help="Where it differs from the address."
                error={faults["options.tls.serverName"]}
              />
              <SelectField
                label="A certificate that nobody vouches for"
                value={options.tls?.insecure ? "yes" : "no"}
                onChange={(value) => set({ tls: { ...options.tls, insecure: value === "yes" || undefined } })}
                options={[
                  ["no", "is refused"],
                  ["yes", "is taken all the same"],
                ]}
              />
              <Box gridColumn="1 / -1">
                <TextField
                  label="Authority it trusts (PEM)"
                  lines={2}
                  value={options.tls?.ca ?? ""}
                  onChange={(ca) => set({ tls: { ...options.tls, ca: ca || undefined } })}
                  error={faults["options.tls.ca"]}
                />
              </Box>
            </Grid>
          )}
          {WITH_PARTS.includes(kind) && (
            <Grid templateColumns={{ base: "1fr", md: "1fr 1fr 1fr" }} gap="12px" alignItems="start">
              <SelectField
                label="New parts"
                value={options.discovery?.take ?? "all"}
                onChange={(take) =>
                  set({ discovery: { ...options.discovery, take: take as "all" | "none" } })
                }
                options={[
                  ["all", "are taken in by themselves"],
                  ["none", "are offered, and wait for you"],
                ]}
              />
              <TextField
                label="Only those like"
                value={options.discovery?.only ?? ""}
                onChange={(only) =>
                  set({ discovery: { take: "all", ...options.discovery, only: only || undefined } })
                }
                placeholder="booking/.*"
                error={faults["options.discovery.only"]}
              />
              <TextField
                label="Not those like"
                value={options.discovery?.except ?? ""}
                onChange={(except) =>
                  set({ discovery: { take: "all", ...options.discovery, except: except || undefined } })
                }
                error={faults["options.discovery.except"]}
              />
            </Grid>
          )}
          <LabelRules
            rules={options.labelRules ?? []}
            onChange={(labelRules) => set({ labelRules })}
            fault={rulesFault}
          />
          <TextField
            label="Budget of series"
            value={options.budget === undefined ? "" : String(options.budget)}
            onChange={(text) => set({ budget: text.trim() === "" ? undefined : Number(text) })}
            placeholder="5000"
            help="At a time, and new ones in a day. What is beyond is left out and said."
            error={faults["options.budget"]}
          />
        </Flex>
      </Box>
    </Flex>
  );
}
