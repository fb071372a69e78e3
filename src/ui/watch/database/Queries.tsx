"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState, useQueryStates } from "nuqs";
import { formatNumber, formatQuantity } from "@/core/units/quantity";
import type { QueryLine, QueryTotals } from "@/server/services/queries";
import { useStrip } from "../../data";
import { Fault, Note, Sheet } from "../../Page";
import { Sparkline } from "../../Sparkline";
import { useTimeFormat } from "../../state/timeFormat";
import { useTimeRange } from "../../state/view";
import { SelectField } from "../../TextField";
import { type Period, useQueryActivity } from "./data";
import { OneQuery } from "./OneQuery";

const DAY = 86_400_000;
const WEEK = 7 * DAY;
const SHOWN = 30;

const RANKS = {
  seconds: "time",
  calls: "calls",
  meanSeconds: "mean time",
  rows: "rows",
  blocksRead: "blocks read",
  tempBlocks: "temporary blocks",
  added: "added time",
} as const;
type Rank = keyof typeof RANKS;

/** Which queries the server's time went into, ranked as one likes, and set against another time. */
export function Queries({ system }: { system: string }) {
  const [query, setQuery] = useQueryState("query", parseAsString.withOptions({ history: "push" }));
  if (query) return <OneQuery system={system} query={query} back={() => setQuery(null)} />;
  return <QueryList system={system} open={setQuery} />;
}

function QueryList({ system, open }: { system: string; open(query: string): void }) {
  const range = useTimeRange();
  const [{ rank: rankWord, against }, set] = useQueryStates({
    rank: parseAsString.withDefault("seconds"),
    against: parseAsString.withDefault(""),
  });
  const { exact } = useTimeFormat();
  const { data: strip } = useStrip(range.from - WEEK, range.to, system);
  const marks = (strip?.marks ?? [])
    .filter((mark) => mark.system === system || mark.system === null)
    .slice(-12);
  const own = { from: Math.max(range.from, range.to - WEEK), to: range.to };
  const { now, before, words } = periods(against, own, range.to);
  const { data, error } = useQueryActivity(system, now, before);
  const rank: Rank = rankWord in RANKS && (rankWord !== "added" || before) ? (rankWord as Rank) : "seconds";
  const rows = (data?.queries ?? [])
    .filter((line) => line.query !== "rest")
    .sort((a, b) => rankOf(b, rank) - rankOf(a, rank))
    .slice(0, SHOWN);
  const rest = data?.queries.find((line) => line.query === "rest");
  if (error) return <Fault>{error.message}</Fault>;
  return (
    <Sheet
      title={
        <>
          Where the time went{" "}
          <Text as="span" color="soft" fontWeight="400">
            {before ? words : "constants as $1, $2"}
          </Text>
        </>
      }
      aside={
        data &&
        `${formatQuantity(data.seconds, "s")} in queries${data.secondsBefore === null ? "" : `, ${formatQuantity(data.secondsBefore, "s")} before`}`
      }
    >
      <Flex gap="14px" wrap="wrap" mb="2">
        <Box w="190px">
          <SelectField
            label="Ranked by"
            value={rank}
            onChange={(value) => set({ rank: value === "seconds" ? null : value })}
            options={(Object.entries(RANKS) as [Rank, string][]).filter(([one]) => one !== "added" || before)}
          />
        </Box>
        <Box w="300px">
          <SelectField
            label="Set against"
            value={against}
            onChange={(value) =>
              set({ against: value || null, rank: value ? "added" : rankWord === "added" ? null : rankWord })
            }
            options={[
              ["", "nothing"],
              ["length", "the same length before"],
              ["day", "the same time a day before"],
              ["week", "the same time a week before"],
              ...marks.map((mark): [string, string] => [
                String(Math.round(mark.at / 1000)),
                `before and after: ${mark.title}, ${exact(mark.at)}`,
              ]),
            ]}
          />
        </Box>
      </Flex>
      {data && rows.length === 0 ? (
        <Note>No query was seen at work in this time.</Note>
      ) : (
        <Box overflowX="auto" tabIndex={0} role="region" aria-label="Queries">
          <chakra.table w="100%" fontSize="13px">
            <thead>
              <tr>
                {[
                  "Query",
                  "Share",
                  "Time",
                  ...(before ? ["Added"] : []),
                  "Calls",
                  "Mean",
                  ...extra(rank),
                  "Over time",
                ].map((head, i) => (
                  <chakra.th
                    key={head}
                    textAlign={i === 0 ? "left" : "right"}
                    py="4px"
                    pl={i === 0 ? 0 : "12px"}
                    color="soft"
                    fontWeight="600"
                    whiteSpace="nowrap"
                  >
                    {head}
                  </chakra.th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((line) => (
                <Row
                  key={line.query + line.database}
                  line={line}
                  whole={data?.seconds ?? 0}
                  rank={rank}
                  open={open}
                />
              ))}
              {rest && <Row line={rest} whole={data?.seconds ?? 0} rank={rank} open={null} />}
            </tbody>
          </chakra.table>
        </Box>
      )}
    </Sheet>
  );
}

const extra = (rank: Rank) =>
  ["rows", "blocksRead", "tempBlocks"].includes(rank) ? [capital(RANKS[rank])] : [];
const capital = (word: string) => word[0].toUpperCase() + word.slice(1);

function rankOf(line: QueryLine, rank: Rank): number {
  if (rank === "added") return line.now.seconds - (line.before?.seconds ?? 0);
  return line.now[rank] ?? 0;
}

/** The two times that are set against each other. Around a change mark both are equally long, and end or begin at it. */
function periods(
  against: string,
  own: Period,
  end: number,
): { now: Period; before: Period | null; words: string } {
  const length = own.to - own.from;
  switch (against) {
    case "":
      return { now: own, before: null, words: "" };
    case "length":
      return {
        now: own,
        before: { from: own.from - length, to: own.from },
        words: "against the same length before",
      };
    case "day":
      return { now: own, before: { from: own.from - DAY, to: own.to - DAY }, words: "against a day before" };
    case "week":
      return {
        now: own,
        before: { from: own.from - WEEK, to: own.to - WEEK },
        words: "against a week before",
      };
  }
  const mark = Number(against) * 1000;
  if (!Number.isFinite(mark)) return { now: own, before: null, words: "" };
  const span = Math.min(length, Math.max(600_000, end - mark), WEEK);
  return {
    now: { from: mark, to: mark + span },
    before: { from: mark - span, to: mark },
    words: "after the change against before it",
  };
}

function Row(props: { line: QueryLine; whole: number; rank: Rank; open: ((query: string) => void) | null }) {
  const { line, whole, rank, open } = props;
  const text = (line.text ?? line.query).replace(/\s+/g, " ");
  const added = line.before ? line.now.seconds - line.before.seconds : null;
  const figures: React.ReactNode[] = [
    formatQuantity(whole > 0 ? line.now.seconds / whole : 0, "1"),
    formatQuantity(line.now.seconds, "s"),
    ...(added === null ? [] : [<Added key="a" added={added} before={line.before!} whole={whole} />]),
    formatNumber(Math.round(line.now.calls)),
    <Mean key="m" line={line} />,
    ...(rank === "rows" || rank === "blocksRead" || rank === "tempBlocks"
      ? [formatNumber(Math.round(line.now[rank]))]
      : []),
  ];
  return (
    <chakra.tr borderTopWidth="1px" borderColor="line" verticalAlign="top">
      <chakra.td py="5px" fontFamily="mono" fontSize="12.5px" maxW="520px" overflowWrap="anywhere">
        {open ? (
          <Button
            variant="plain"
            h="auto"
            p="0"
            minW="0"
            fontSize="inherit"
            fontWeight="400"
            textAlign="left"
            whiteSpace="normal"
            color="spruce"
            justifyContent="flex-start"
            display="-webkit-box"
            css={{ WebkitLineClamp: 2, WebkitBoxOrient: "vertical", overflow: "hidden" }}
            title={text}
            onClick={() => open(line.query)}
          >
            {text}
          </Button>
        ) : (
          <Text as="span" color="soft" fontFamily="body">
            all other queries
          </Text>
        )}
        {line.isNew && (
          <Text as="span" color="today" fontFamily="body" fontWeight="600">
            {" "}
            new
          </Text>
        )}
      </chakra.td>
      {figures.map((figure, i) => (
        <chakra.td
          // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
          key={i}
          py="5px"
          pl="12px"
          textAlign="right"
          whiteSpace="nowrap"
          className="figure"
        >
          {figure}
        </chakra.td>
      ))}
      <chakra.td pl="12px">
        <Flex justify="flex-end">
          <Sparkline values={line.spark} />
        </Flex>
      </chakra.td>
    </chakra.tr>
  );
}

/** Growth stands out where it is both much for the query and a tenth of all there is. */
function Added({ added, before, whole }: { added: number; before: QueryTotals; whole: number }) {
  const share = before.seconds > 0 ? added / before.seconds : null;
  return (
    <Text as="span" color={added > 0.1 * whole && (share === null || share > 0.2) ? "now" : undefined}>
      {added >= 0 ? "+" : "−"}
      {formatQuantity(Math.abs(added), "s")}
      {share !== null && ` (${added >= 0 ? "+" : "−"}${formatQuantity(Math.abs(share), "1")})`}
    </Text>
  );
}

function Mean({ line }: { line: QueryLine }) {
  const { meanSeconds } = line.now;
  if (meanSeconds === null) return "–";
  const before = line.before?.meanSeconds;
  return (
    <>
      {formatQuantity(meanSeconds, "s")}
      {before != null && (
        <Text as="span" color="soft">
          {" "}
          was {formatQuantity(before, "s")}
        </Text>
      )}
    </>
  );
}
