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

// The foot under the machine's ceiling: raising the ceiling leaves the foot, lowering it takes the foot along only as long as it
// lies under what was asked of the foot, and a foot that presses past the ceiling lifts it. With a torch switch both are one.
export class Amps {
  constructor(settings, pedal) {
    this.pedal = pedal;
    this.asked(settings);
  }

  asked({ amps_run, amps_set }) {
    this.foot = amps_run;
    this.ceiling = amps_set;
  }

  write(settings, lane) {
    if (lane.key === "amps_run") this.foot = lane.value;
    else this.ceiling = lane.value;
    if (!this.pedal) this.foot = this.ceiling = lane.value;
    settings.amps_run = lane.key === "amps_run" ? this.foot : Math.min(this.foot, this.ceiling);
    settings.amps_set = lane.key === "amps_set" ? this.ceiling : Math.max(this.foot, this.ceiling);
  }

  within(settings) {
    settings.amps_run = this.pedal ? Math.min(settings.amps_run, settings.amps_set) : settings.amps_set;
    this.asked(settings);
  }
}

export const AMPS = ["amps_run", "amps_set"];

export function writeLane(settings, lane) {
  if (lane.choices.length) {
    settings.shape_en = settings.shape_ep = lane.choices[Math.round(lane.value)];
    return;
  }
  const path = paths[lane.key] ?? [lane.key];
  let inside = settings;
  for (const name of path.slice(0, -1)) inside = inside[name] ??= {};
  inside[path.at(-1)] = lane.key === "preheat_c" && lane.value <= lane.low ? null : lane.value;
}
