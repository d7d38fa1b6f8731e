"""Train all that hears anew, step by step, each on what the ones before it wrote into the package.

    ./run-benchmarks train [--from STEP]

Each step is a command of its own besides (`./run-benchmarks train_judge alone --pieces 4480`).
"""

import argparse
import subprocess
import sys
import time

STEPS = {  # with the minutes on two cores that it took
    "train_judge alone --pieces 4480": 32,
    "train_judge band --pieces 2800": 58,
    "train_transitions alone --pieces 7200": 55,
    "train_transitions band --pieces 2400": 45,
    "train_belief alone --pieces 2000": 9,
    "train_belief band --pieces 1200": 16,
    "train_naming alone --pieces 1650": 15,
    "train_naming band --pieces 700": 18,
    "train_mix": 13,
    "train_voices --pieces 1330": 28,
    "train_bars --pieces 500": 5,
    "train_palm --pieces 1080": 6,
    "train_ringing --pieces 240": 2,
    "train_harmonics --pieces 900": 8,
    "train_chords 800": 14,
}


def main() -> None:
    parser = argparse.ArgumentParser(description="Train all that hears anew, step by step.")
    parser.add_argument("--from", dest="first", type=int, default=1, choices=range(1, len(STEPS) + 1), metavar="STEP")
    first = parser.parse_args().first
    for number, (step, minutes) in enumerate(STEPS.items(), start=1):
        if number < first:
            continue
        print(f"{number} of {len(STEPS)}: {step}, about {minutes} minutes", flush=True)
        began = time.monotonic()
        module, *options = step.split()
        if subprocess.run([sys.executable, "-m", f"benchmarks.{module}", *options], check=False).returncode:
            sys.exit(f"step {number} failed; go on from there with --from {number}")
        print(f"{(time.monotonic() - began) / 60:.0f} minutes", flush=True)


if __name__ == "__main__":
    main()
