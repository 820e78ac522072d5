import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Bias, LessonsView, OutcomeLesson } from "../api/client";
import { serve, show } from "../testing/shop.test";
import { LessonsPage } from "./lessons";
import { factors, scale } from "./plots";
import { between, biased, counted, sentences, teaches, toDo } from "./words";

const point = (blade: string, measured: number) => ({
  blade,
  measured,
  physics: 61,
  predicted: 60.4,
  low: 59.5,
  high: 61.3,
  held: measured >= 59.5 && measured <= 61.3,
});

const bias = (share: Bias["share"], name: string, by: number, more: Partial<Bias> = {}): Bias => ({
  share,
  name,
  by,
  give_or_take: 0.3,
  results: 12,
  sure: Math.abs(by) > 0.3,
  ...more,
});

const tempered: OutcomeLesson = {
  outcome: "tempered",
  lesson: {
    measure: "difference",
    results: 40,
    blades: 38,
    before_rms: 0.83,
    after_rms: 0.56,
    bias: -0.4,
    coverage: 0.92,
    promise: "kept",
    points: [point("b1", 60.2), point("b2", 57), point("b3", 61)],
    curve: [
      { after: 0, blades: 19, physics_rms: 0.8, rms: 0.9 },
      { after: 19, blades: 19, physics_rms: 0.86, rms: 0.52 },
    ],
  },
  biases: [
    bias({ of: "shop" }, "", -0.1),
    bias({ of: "steel", key: "w2" }, "W2", 0.7),
    bias({ of: "steel", key: "o1" }, "O1", 0.1, { results: 2 }),
    bias({ of: "operator", operator: "Aksel" }, "Aksel", -0.5),
    bias({ of: "oven", id: "o1" }, "Kitchen oven", 9.2, { give_or_take: 4, by_check_c: 8.5 }),
    bias({ of: "tester", id: "t1" }, "Bench tester", 0.6),
  ],
};

const band: OutcomeLesson = {
  outcome: "band",
  lesson: {
    ...tempered.lesson,
    measure: "ratio",
    results: 1,
    blades: 1,
    before_rms: 0.7,
    after_rms: 0.69,
    bias: 0.5,
    promise: "too_few",
    points: [
      { ...point("b1", 0.4), physics: 0.1, predicted: 0.2, low: 0.05, high: 0.9, held: true },
    ],
    curve: [],
  },
  biases: [bias({ of: "operator", operator: "Aksel" }, "Aksel", 0.65, { give_or_take: 0.5 })],
};

const lessons: LessonsView = {
  counting: false,
  records: 40,
  outcomes: [tempered, band],
  cracks: [
    { share: { of: "shop" }, name: "", looked_at: 30, cracked: 3, expected: 0.8, low: 0, high: 2 },
    {
      share: { of: "tank", medium: "water" },
      name: "Water trough",
      looked_at: 9,
      cracked: 3,
      expected: 0.6,
      low: 0,
      high: 2,
    },
  ],
  warp: [
    { driver: "lean", share: { of: "shop" }, name: "", times: 1.02, low: 0.6, high: 1.7 },
    {
      driver: "lean",
      share: { of: "operator", operator: "Aksel" },
      name: "Aksel",
      times: 1.8,
      low: 1.1,
      high: 2.9,
    },
    {
      driver: "rest",
      share: { of: "operator", operator: "Tove" },
      name: "Tove",
      times: 0.98,
      low: 0.7,
      high: 1.3,
    },
  ],
  warp_promises: [
    { blades: 20, promised: 0.03, came: 0.05 },
    { blades: 1, promised: 0.4, came: 0 },
  ],
  next: [
    {
      measurement: { kind: "thermometer", id: "s1" },
      name: "Kitchen oven",
      teaches: { of: "oven", id: "s1" },
      teaches_name: "Kitchen oven",
      now_hrc: 0.62,
      then_hrc: 0.41,
    },
    {
      measurement: { kind: "coupon", steel: "w2", temper_c: 180 },
      name: "W2",
      teaches: { of: "steel", key: "w2" },
      teaches_name: "W2",
      now_hrc: 0.9,
      then_hrc: 0.7,
    },
  ],
  marks: { b1: "K-1", b2: "K-2", b3: "K-3" },
};

const units = {
  show: (kind: string, v: number) => (kind === "length" ? `${v} mm` : `${v} °C`),
  about: (mm: number) => `${mm.toFixed(1)} mm`,
  degrees: (c: number) => `${c >= 0 ? "+" : "−"}${Math.abs(c).toFixed(1)} °C`,
};

const answer = (view: LessonsView) =>
  serve(({ path }) => (path === "/api/v1/lessons" ? { body: view } : undefined));

describe("the lessons", () => {
  it("say how far off, how honest, and how it went", async () => {
    answer(lessons);
    show(<LessonsPage />);
    expect(await screen.findByText(/From 40 results on 38 blades/)).toBeTruthy();
    const all = screen.getAllByRole("listitem").map((l) => l.textContent);
    expect(all.join(" ")).toContain("off by 0.83 HRC");
    expect(all.join(" ")).toContain("0.4 HRC softer than physics says");
    expect(all.join(" ")).toContain("The intervals held 92 %");
    expect(all.join(" ")).toContain("the first 19 blades were predicted to 0.90 HRC");
    expect(screen.getAllByRole("img")).toHaveLength(2);
  });

  it("say whose doing it is, and leave out what nothing stands behind", async () => {
    answer(lessons);
    show(<LessonsPage />);
    const whose = await screen.findByRole("region", { name: "Whose doing" });
    const rows = within(whose)
      .getAllByRole("row")
      .map((r) => r.textContent);
    expect(rows.find((r) => r?.includes("Aksel"))).toContain("0.5 HRC softer");
    expect(rows.find((r) => r?.includes("Kitchen oven"))).toContain("9.2 °C hotter than set");
    expect(rows.find((r) => r?.includes("Bench tester"))).toContain("reads 0.6 HRC high");
    expect(rows[1]).toBe("The whole shop−0.4 to +0.212");
    expect(rows.some((r) => r?.includes("O1"))).toBe(false);
    expect(within(whose).getByText("One more has fewer than three results.")).toBeTruthy();
  });

  it("name the blade that did not fit, and only that", async () => {
    answer(lessons);
    show(<LessonsPage />);
    const odd = (await screen.findByText("Did not fit")).nextElementSibling;
    expect(odd?.textContent).toContain("K-2: measured 57.0 HRC");
    expect(odd?.textContent).not.toContain("K-1");
    expect(
      within(odd as HTMLElement)
        .getByRole("link")
        .getAttribute("href"),
    ).toBe("/blades/b2/readings");
  });

  it("propose what to try, the best first, with the way there", async () => {
    answer(lessons);
    show(<LessonsPage />);
    const next = await screen.findByRole("region", { name: "To try next" });
    expect(next.textContent).toContain("Put a thermometer beside the work in Kitchen oven.");
    expect(within(next).getByRole("link").getAttribute("href")).toBe("/stations/s1");
    expect(next.textContent).not.toContain("coupon");
    fireEvent.click(within(next).getByRole("button", { name: "one more" }));
    expect(next.textContent).toContain("temper it at 180 °C");
  });

  it("show another outcome, ratios as factors, and what is not written down", async () => {
    answer(lessons);
    show(<LessonsPage />);
    fireEvent.click(await screen.findByRole("radio", { name: "Width of its band" }));
    expect(screen.getByText(/From one result on one blade/).textContent).toContain(
      "off by a factor of 2.0",
    );
    expect(screen.getByText(/too few results to judge/)).toBeTruthy();
    expect(screen.getByText(/no hamon, no curve to the spine or the edge, no grain/)).toBeTruthy();
    expect(screen.getAllByRole("img")).toHaveLength(1);
  });

  it("say what bends blades here, by whose hand, and whether the chances were kept", async () => {
    answer(lessons);
    show(<LessonsPage />);
    fireEvent.click(await screen.findByRole("radio", { name: /bend|Sideways/i }));
    const warp = await screen.findByRole("region", { name: "What bends them" });
    expect(warp.textContent).toContain("leaning in the bath, Aksel");
    expect(warp.textContent).toContain("× 1.8");
    // As everywhere else: no line of its own.
    expect(warp.textContent).not.toContain("Tove");
    expect(warp.textContent).toContain("20 blades were given 3 % to warp: 1 came out of line.");
    expect(warp.textContent).toContain("One blade was given 40 % to warp: none came out of line.");
  });

  it("count cracks against what was to be expected", async () => {
    answer(lessons);
    show(<LessonsPage />);
    fireEvent.click(await screen.findByRole("radio", { name: "Cracks" }));
    expect(screen.getByText(/In the whole shop 3 cracked in 30 looks; 0.8/)).toBeTruthy();
    expect(screen.getByRole("row").textContent).toContain("more than chance allows");
  });

  it("show what they said before while something new is counted, and ask again", async () => {
    let asked = 0;
    serve(({ path }) => {
      if (path !== "/api/v1/lessons") return undefined;
      asked += 1;
      return { body: { ...lessons, counting: asked === 1, records: asked } };
    });
    show(<LessonsPage />);
    expect(await screen.findByText(/it is being counted/)).toBeTruthy();
    expect(screen.getByText(/From 40 results/)).toBeTruthy();
    await waitFor(() => expect(screen.queryByText(/it is being counted/)).toBeNull(), {
      timeout: 4000,
    });
    expect(asked).toBe(2);
  });

  it("of an empty shop say what to do", async () => {
    answer({
      counting: false,
      records: 0,
      outcomes: [],
      cracks: [],
      warp: [],
      warp_promises: [],
      next: [],
      marks: {},
    });
    show(<LessonsPage />);
    expect(await screen.findByText(/Nothing measured yet/)).toBeTruthy();
    expect(screen.queryByRole("img")).toBeNull();
    expect(screen.queryByRole("radio")).toBeNull();
  });
});

describe("the words", () => {
  it("judge the promise", () => {
    const with_ = (promise: OutcomeLesson["lesson"]["promise"]) =>
      sentences({ ...tempered, lesson: { ...tempered.lesson, promise } }, units)[2];
    expect(with_("narrow")).toContain("narrower than they should be");
    expect(with_("wide")).toContain("could be narrower");
    expect(with_("kept")).not.toContain("chance");
  });

  it("say a ratio as a factor and a heat in degrees", () => {
    const [hand] = band.biases;
    const oven = tempered.biases[4];
    if (!hand || !oven) throw new Error("missing");
    expect(biased(band, hand, units)).toBe("1.9 times as much");
    expect(between(band, hand, units)).toBe("× 1.2 to 3.2");
    expect(biased(band, { ...hand, by: -0.65 }, units)).toBe("1.9 times less");
    expect(between(tempered, oven, units)).toBe("+5.2 to +13.2 °C");
    expect(sentences(band, units)[1]).toBe(
      "On the whole it comes out 1.6 times as much as physics says.",
    );
  });

  it("say a curve in lengths, as on one size of blade", () => {
    const curve: OutcomeLesson = {
      ...band,
      outcome: "curve",
      lesson: { ...band.lesson, measure: "difference", before_rms: 0.4, bias: 0.3 },
    };
    expect(sentences(curve, units)[0]).toContain("physics alone is off by 0.4 mm");
    expect(sentences(curve, units)[1]).toBe("Told as on a blade 240 mm long.");
    expect(sentences(curve, units)[2]).toBe(
      "On the whole it comes out 0.3 mm more to the spine than physics says.",
    );
  });

  it("say what a trial would tell", () => {
    const [, coupon] = lessons.next;
    if (!coupon) throw new Error("missing");
    expect(toDo(coupon, units)).toContain("Quench a coupon with the next blade of W2");
    expect(teaches(coupon)).toContain("± 0.90 to ± 0.70 HRC");
  });

  it("count none as none", () => {
    const [shop] = lessons.cracks;
    if (!shop) throw new Error("missing");
    expect(counted({ ...shop, cracked: 0, looked_at: 1, low: 0, high: 0 })).toBe(
      "none cracked in one look; 0.8 to be expected (none)",
    );
  });
});

describe("a scale", () => {
  it("takes round steps", () => {
    expect(scale(0.13, 0.92).ticks).toEqual([0, 0.2, 0.4, 0.6, 0.8, 1]);
    expect(scale(57.2, 64.8)).toMatchObject({ low: 56, high: 66 });
    expect(factors(1).ticks.map((t) => Math.round(Math.exp(t)))).toEqual([1, 2, 5]);
    expect(factors(0).ticks).toHaveLength(2);
    expect(scale(5, 5).ticks.length).toBeGreaterThan(1);
  });
});
