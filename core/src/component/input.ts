import type { Component, ComponentInput } from "../contract/index.ts";

/** A component as a person writes it, without what the server itself keeps of it. */
export const inputOf = ({
  version: _version,
  onHand: _onHand,
  u: _u,
  spokenFor: _spokenFor,
  onTheWay: _onTheWay,
  averageCost: _averageCost,
  lastCost: _lastCost,
  moved: _moved,
  ...component
}: Component): { id: string } & ComponentInput => component;
