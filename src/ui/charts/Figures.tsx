"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { formatQuantity } from "@/core/units/quantity";
import { Sparkline } from "../Sparkline";
import { type Line, lastKnown } from "./lines";

const SPARKS = 60;

/** About sixty values of a line, for a sparkline. */
function sparkOf(line: Line): (number | null)[] {
  const every = Math.max(1, Math.floor(line.points.length / SPARKS));
  return line.points
    .filter((_, i) => i % every === 0)
    .map(([, value]) => (Number.isFinite(value) ? value : null));
}

function statistics(line: Line) {
  const known = line.points.map((point) => point[1]).filter(Number.isFinite);
  return {
    last: lastKnown(line)?.[1] ?? Number.NaN,
    mean: line.mean,
    least: known.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY),
    most: known.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY),
  };
}

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
  // Narrow tables keep the newest value and the line.
  const narrow = width < 460;
  const current = lines.filter((line) => line.before === null);
  return (
    <Box maxH={`${height}px`} overflow="auto" tabIndex={0} role="region" aria-label={`${title}, table`}>
      <chakra.table w="100%" fontSize="13px">
        <thead>
          <tr>
            {["", "Last", ...(narrow ? [] : ["Mean", "Least", "Most"]), "Over time"].map((head, i) => (
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
            const { last, mean, least, most } = statistics(line);
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
                <chakra.td py="4px" maxW="280px" overflowWrap="anywhere">
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
                {(narrow ? [last] : [last, mean, least, most]).map((value, i) => (
                  <chakra.td
                    // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
                    key={i}
                    className="figure"
                    textAlign="right"
                    pl="12px"
                    whiteSpace="nowrap"
                    fontWeight={i === 0 ? "600" : undefined}
                  >
                    {Number.isFinite(value) ? formatQuantity(value, line.unit, decimals) : "–"}
                  </chakra.td>
                ))}
                <chakra.td pl="12px">
                  <Flex justify="flex-end">
                    <Sparkline values={sparkOf(line)} />
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
              <Sparkline values={sparkOf(line)} width={96} height={28} />
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
