// Between a lane's number and the settings object that the server knows.
const paths = {
  flow_l_min: ["gas", "flow_l_min"],
  tungsten_mm: ["tungsten", "diameter_mm"],
  cup_number: ["cup", "number"],
  stick_out_mm: ["cup", "stick_out_mm"],
  filler_mm: ["filler", "diameter_mm"],
  pulse_rate_hz: ["pulse", "rate_hz"],
  pulse_peak_share: ["pulse", "peak_share"],
  pulse_base_share: ["pulse", "base_share"],
  mix_ac_share: ["mix", "ac_share"],
  mix_cycle_s: ["mix", "cycle_s"],
  mix_dc_level: ["mix", "dc_level"],
};

// null where the lane's group (pulse, mix) is off.
export function readLane(settings, lane) {
  const value = (paths[lane.key] ?? [lane.key]).reduce((inside, name) => inside?.[name] ?? null, settings);
  if (lane.choices.length) return Math.max(0, lane.choices.indexOf(value));
  if (lane.key === "preheat_c" && value === null) return lane.low;
  return value;
}

export function writeLane(settings, lane) {
  if (lane.choices.length) {
    settings.shape_en = settings.shape_ep = lane.choices[Math.round(lane.value)];
    return;
  }
  const path = paths[lane.key] ?? [lane.key];
  let inside = settings;
  for (const name of path.slice(0, -1)) inside = inside[name] ??= {};
  if (lane.key === "amps_set") settings.amps_run *= lane.value / settings.amps_set; // the foot's share stays
  inside[path.at(-1)] = lane.key === "preheat_c" && lane.value <= lane.low ? null : lane.value;
}
