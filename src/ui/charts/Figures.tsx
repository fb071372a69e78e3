"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { formatQuantity } from "@/core/units/quantity";
import { Sparkline } from "../Sparkline";
import { type Line, lastKnown } from "./lines";
import { sparkOf } from "./spark";

function statistics(line: Line) {
  const known = line.points.map((point) => point[1]).filter(Number.isFinite);
  return {
    last: lastKnown(line)?.[1] ?? Number.NaN,
    mean: line.mean,
    least: known.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY),
    most: known.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY),
  };
}

/** Narrow tables keep the newest value, the mean that orders them, and the line: names need room to be read. */
function columnsFor(width: number): (keyof ReturnType<typeof statistics>)[] {
  if (width < 400) return ["last"];
  if (width < 520) return ["last", "mean"];
  return width < 620 ? ["last", "mean", "most"] : ["last", "mean", "least", "most"];
}

const HEADS = { last: "Last", mean: "Mean", least: "Least", most: "Most" };

interface Props {
  title: string;
  lines: Line[];
  height: number;
  width: number;
  decimals?: number;
  onPick?(labels: Record<string, string>): void;
  picked?: Record<string, string>;
}

/** Lines as rows: last, mean, least and greatest value of the time shown, with a sparkline. */
export function LineTable({ title, lines, height, width, decimals, onPick, picked }: Props) {
  const columns = columnsFor(width);
  const current = lines.filter((line) => line.before === null);
  return (
    <Box maxH={`${height}px`} overflow="auto" tabIndex={0} role="region" aria-label={`${title}, table`}>
      <chakra.table w="100%" fontSize="13px">
        <thead>
          <tr>
            {["", ...columns.map((column) => HEADS[column]), "Over time"].map((head, i) => (
              <chakra.th
                key={head}
                textAlign={i === 0 ? "left" : "right"}
                color="soft"
                fontWeight="600"
                pl={i === 0 ? 0 : "12px"}
                position="sticky"
                top="0"
                bg="surface"
              >
                {head || <span className="figure">{current.length}</span>}
              </chakra.th>
            ))}
          </tr>
        </thead>
        <tbody>
          {current.map((line) => {
            const figures = statistics(line);
            const isPicked =
              picked !== undefined &&
              Object.entries(picked).every(([label, own]) => line.labels[label] === own);
            return (
              <chakra.tr
                key={line.key}
                borderTopWidth="1px"
                borderColor="line"
                bg={isPicked ? "tint" : undefined}
              >
                <chakra.td py="4px" minW="130px" maxW="280px" overflowWrap="anywhere">
                  {onPick && Object.keys(line.labels).length > 0 ? (
                    <chakra.button
                      type="button"
                      color="spruce"
                      cursor="pointer"
                      textAlign="left"
                      aria-pressed={isPicked}
                      onClick={() => onPick(line.labels)}
                    >
                      {line.name || title}
                    </chakra.button>
                  ) : (
                    line.name || title
                  )}
                </chakra.td>
                {columns.map((column) => (
                  <chakra.td
                    key={column}
                    className="figure"
                    textAlign="right"
                    pl="12px"
                    whiteSpace="nowrap"
                    fontWeight={column === "last" ? "600" : undefined}
                  >
                    {Number.isFinite(figures[column])
                      ? formatQuantity(figures[column], line.unit, decimals)
                      : "–"}
                  </chakra.td>
                ))}
                <chakra.td pl="12px">
                  <Flex justify="flex-end">
                    <Sparkline values={sparkOf(line.points.map(([, value]) => value))} />
                  </Flex>
                </chakra.td>
              </chakra.tr>
            );
          })}
        </tbody>
      </chakra.table>
    </Box>
  );
}

/** The newest value, large, with its line; several lines stand side by side. */
export function OneNumber({ title, lines, decimals, height }: Omit<Props, "width">) {
  const current = lines.filter((line) => line.before === null).slice(0, 6);
  return (
    <Flex gap="18px" wrap="wrap" align="center" minH={`${Math.min(height, 80)}px`}>
      {current.map((line) => {
        const last = lastKnown(line);
        const before = lines.find((other) => other.before !== null && other.name === line.name);
        const then = before && lastKnown(before);
        return (
          <Box key={line.key}>
            {line.name && (
              <Text color="soft" fontSize="12.5px">
                {line.name}
              </Text>
            )}
            <Flex gap="10px" align="flex-end">
              <Text
                className="figure"
                fontSize="26px"
                lineHeight="1.1"
                fontWeight="600"
                whiteSpace="nowrap"
                aria-label={line.name || title}
              >
                {last ? formatQuantity(last[1], line.unit, decimals) : "unknown"}
              </Text>
              <Sparkline values={sparkOf(line.points.map(([, value]) => value))} width={96} height={28} />
            </Flex>
            {then && (
              <Text fontSize="12px" color="soft" className="figure">
                {formatQuantity(then[1], line.unit, decimals)} the {before.before} before
              </Text>
            )}
          </Box>
        );
      })}
    </Flex>
  );
}
