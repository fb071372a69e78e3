"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import type { SystemSummary } from "@/server/services/systems";
import { useSystems } from "../data";
import { Lantern } from "../Lantern";
import { Link } from "../Link";
import { Note, Sheet } from "../Page";
import { useHref } from "../state/view";
import { useWidth } from "../useWidth";
import { walkWithArrows } from "../walk";
import { useDependencies } from "./Neighbours";

const ROW = 52;
const NODE = { width: 214, height: 42 };
const MOST = 12;

const portWords = (ports: number[]) => (ports.length > 0 ? `port ${ports.join(", ")}` : "");

interface Node {
  name: string;
  /** What stands on the line to it: ports, or that it carries the system. */
  words: string;
  x: number;
  y: number;
}

/** A small map: who reads from the system at the left, what it reads from at the right, what it runs on below. */
export function NeighbourMap({ system }: { system: string }) {
  const { data = [] } = useDependencies(system);
  const { data: systems = [] } = useSystems();
  const [ref, width] = useWidth<HTMLDivElement>();
  const names = (kind: "runs-on" | "reads-from", from: boolean) =>
    data
      .filter((one) => one.kind === kind && (from ? one.from : one.to) === system)
      .map((one) => ({
        name: from ? one.to : one.from,
        words: kind === "reads-from" && from ? portWords(one.ports) : "",
      }));
  const ownPorts = data.find((one) => one.to === system)?.ports ?? [];
  const readers = names("reads-from", false);
  const sources = names("reads-from", true);
  const hosts = names("runs-on", true);
  const guests = names("runs-on", false);
  const rows = Math.max(1, Math.min(MOST, readers.length), Math.min(MOST, sources.length));
  const middle = (rows * ROW) / 2 + (guests.length > 0 ? ROW * 1.3 : 0);
  const column = (list: { name: string; words: string }[], x: number): Node[] =>
    list.slice(0, MOST).map((one, i) => ({
      ...one,
      x,
      y: middle + (i - (Math.min(MOST, list.length) - 1) / 2) * ROW - NODE.height / 2,
    }));
  const row = (list: { name: string; words: string }[], y: number): Node[] => {
    const room = Math.max(1, Math.min(4, Math.floor(width / (NODE.width + 16))));
    return list.slice(0, room).map((one, i) => ({
      ...one,
      x: width / 2 + (i - (Math.min(room, list.length) - 1) / 2) * (NODE.width + 16) - NODE.width / 2,
      y,
    }));
  };
  const left = column(readers, 0);
  const right = column(sources, Math.max(0, width - NODE.width));
  const below = row(hosts, middle + (rows * ROW) / 2 + ROW * 0.6);
  const above = row(guests, 0);
  const centre = { x: width / 2 - NODE.width / 2, y: middle - NODE.height / 2 };
  const height = Math.max(middle + (rows * ROW) / 2, ...below.map((node) => node.y + NODE.height)) + 6;
  const state = (name: string) => systems.find((one) => one.name === name);
  const hidden = Math.max(0, readers.length - left.length) + Math.max(0, guests.length - above.length);
  return (
    <Box mb="12px">
      <Sheet
        title="What hangs together"
        aside="who reads from it · it · what it reads from; below, what it runs on"
      >
        <Box ref={ref} position="relative" style={{ height }} onKeyDown={walkWithArrows}>
          {width > 0 && (
            <>
              <svg
                width={width}
                height={height}
                style={{ position: "absolute", inset: 0 }}
                aria-hidden="true"
              >
                {left.map((node) => (
                  <Line
                    key={node.name}
                    from={{ x: node.x + NODE.width, y: node.y + NODE.height / 2 }}
                    to={{ x: centre.x, y: centre.y + NODE.height / 2 }}
                    words=""
                  />
                ))}
                {right.map((node) => (
                  <Line
                    key={node.name}
                    from={{ x: centre.x + NODE.width, y: centre.y + NODE.height / 2 }}
                    to={{ x: node.x, y: node.y + NODE.height / 2 }}
                    words={node.words}
                  />
                ))}
                {[...below, ...above].map((node) => (
                  <line
                    key={node.name}
                    x1={width / 2}
                    x2={node.x + NODE.width / 2}
                    y1={node.y > centre.y ? centre.y + NODE.height : centre.y}
                    y2={node.y > centre.y ? node.y : node.y + NODE.height}
                    stroke="var(--chakra-colors-soft)"
                    strokeDasharray="2 4"
                  />
                ))}
              </svg>
              <NodeBox
                node={{ ...centre, name: system, words: portWords(ownPorts) }}
                system={state(system)}
                centre
              />
              {[...left, ...above, ...right, ...below].map((node) => (
                <NodeBox key={`${node.name}${node.x}`} node={node} system={state(node.name)} />
              ))}
            </>
          )}
        </Box>
        {hidden > 0 && <Note>and {hidden} more that have no room here</Note>}
      </Sheet>
    </Box>
  );
}

function Line(props: { from: { x: number; y: number }; to: { x: number; y: number }; words: string }) {
  const { from, to, words } = props;
  const half = (from.x + to.x) / 2;
  return (
    <>
      <path
        d={`M${from.x} ${from.y}C${half} ${from.y} ${half} ${to.y} ${to.x - 6} ${to.y}`}
        fill="none"
        stroke="var(--chakra-colors-soft)"
        strokeWidth="1.4"
      />
      <path d={`M${to.x} ${to.y}l-8 -4v8z`} fill="var(--chakra-colors-soft)" />
      {words && (
        <text
          x={half}
          y={(from.y + to.y) / 2 - 5}
          textAnchor="middle"
          fontSize="11.5"
          fill="var(--chakra-colors-soft)"
          paintOrder="stroke"
          stroke="var(--chakra-colors-surface)"
          strokeWidth="4"
        >
          {words}
        </text>
      )}
    </>
  );
}

const NodeLink = chakra(Link);

function NodeBox({
  node,
  system,
  centre,
}: {
  node: Node;
  system: SystemSummary | undefined;
  centre?: boolean;
}) {
  const href = useHref();
  return (
    <NodeLink
      href={href("/watch?tab=Neighbours", { scope: node.name })}
      aria-current={centre ? "true" : undefined}
      data-walk=""
      position="absolute"
      style={{ left: node.x, top: node.y }}
      w={`${NODE.width}px`}
      h={`${NODE.height}px`}
      display="flex"
      alignItems="center"
      gap="8px"
      px="10px"
      bg={centre ? "tint" : "surface"}
      color="ink"
      borderWidth="1px"
      borderColor={centre ? "spruce" : "line"}
      borderRadius="8px"
      _hover={{ borderColor: "spruce" }}
    >
      <Lantern state={system?.state ?? "dark"} size={22} />
      <Flex direction="column" minW="0" lineHeight="1.2">
        <Text as="span" fontWeight="600" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">
          {node.name}
        </Text>
        <Text as="span" color="soft" fontSize="12px">
          {system?.kitTitle ?? "not known"}
          {centre && node.words && ` · ${node.words}`}
        </Text>
      </Flex>
    </NodeLink>
  );
}
