import { useEffect } from "react";

/** Keeps the screen awake while `on`, where the device lets it. */
export function useAwake(on: boolean) {
  useEffect(() => {
    if (!on || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | undefined;
    let over = false;
    const ask = async () => {
      if (document.visibilityState !== "visible") return;
      try {
        const got = await navigator.wakeLock.request("screen");
        if (over) got.release();
        else lock = got;
      } catch {
        // Low battery or no permission: the firing goes on without it.
      }
    };
    ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      over = true;
      document.removeEventListener("visibilitychange", ask);
      lock?.release();
    };
  }, [on]);
}

/** Two short tones; silent where sound is not allowed. */
export function chime() {
  try {
    const audio = new AudioContext();
    for (const [at, pitch] of [
      [0, 660],
      [0.28, 880],
    ] as const) {
      const tone = audio.createOscillator();
      const volume = audio.createGain();
      tone.frequency.value = pitch;
      volume.gain.setValueAtTime(0.4, audio.currentTime + at);
      volume.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + at + 0.25);
      tone.connect(volume).connect(audio.destination);
      tone.start(audio.currentTime + at);
      tone.stop(audio.currentTime + at + 0.26);
    }
    setTimeout(() => audio.close(), 1000);
    navigator.vibrate?.([200, 100, 200]);
  } catch {
    // No sound here; the clock says it too.
  }
}
