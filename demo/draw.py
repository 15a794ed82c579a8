"""Draw the demo pictures: the allotment society's summer fair.

Run ``make demo-pictures``. Everything is drawn here, so it is ours; the same
script gives the same pictures.
"""

import io
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from resvg_py import svg_to_bytes

HERE = Path(__file__).resolve().parent.parent / "src" / "sketchloom" / "demo"

SOOT, CREAM, BEET, LEAF, CAN = "#3a2a33", "#f2e6cf", "#8e2a5b", "#4f8a4b", "#4e7f93"

BADGE = f"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1600 1330">
<rect width="1600" height="1330" fill="#fff"/>
<ellipse cx="800" cy="665" rx="745" ry="620" fill="{SOOT}"/>
<ellipse cx="800" cy="665" rx="690" ry="565" fill="{CREAM}"/>
<g fill="{LEAF}">
<path d="M520 700C420 650 330 560 285 395C390 405 500 520 545 690Z"/>
<path d="M535 690C520 560 545 440 610 290C690 410 680 580 580 700Z"/>
<path d="M560 712C640 590 740 545 865 520C840 625 720 740 585 735Z"/>
</g>
<path d="M540 700C420 690 290 760 285 905C280 1060 440 1120 520 1255C590 1120 770 1060 765 905C760 760 660 690 540 700Z" fill="{BEET}"/>
<g fill="{SOOT}">
<path d="M400 880C470 925 600 925 660 880C620 960 450 960 400 880Z"/>
<path d="M430 985C480 1020 560 1020 615 985C580 1055 470 1055 430 985Z"/>
</g>
<g fill="{CAN}">
<path d="M930 700H1275L1310 1115Q1315 1165 1265 1165H965Q910 1165 915 1115Z"/>
<path d="M925 960L690 690L735 640L950 850Z"/>
<path d="M640 655L750 600L780 680L668 735Z"/>
<path d="M975 700C985 545 1225 545 1240 700H1180C1165 620 1050 620 1035 700Z"/>
<path d="M1270 750C1440 720 1430 1010 1280 1010V950C1350 950 1355 810 1270 812Z"/>
</g>
<g fill="{SOOT}"><path d="M958 800H1247L1252 846H952Z"/><path d="M936 1045H1284L1288 1092H932Z"/></g>
</svg>"""

SNAIL = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1400 1100">
<rect width="1400" height="1100" fill="#fff"/>
<g fill="none" stroke="#17161a" stroke-width="15" stroke-linecap="round" stroke-linejoin="round">
<path d="M390 610H1010L930 1000H470Z"/><path d="M360 535H1040V610H360Z"/>
<path d="M300 530C420 440 470 470 560 480C660 490 900 500 1010 470C1090 440 1090 330 1140 270C1190 210 1260 260 1240 330C1220 400 1190 520 1080 535"/>
<path d="M560 480C430 350 520 150 700 150C880 150 960 330 840 450"/>
<path d="M640 470C560 390 600 240 715 245C820 250 850 370 770 425C700 465 640 400 680 345C710 310 760 335 745 370"/>
<path d="M1160 262L1130 160M1215 250L1240 150"/>
</g>
<g fill="#17161a"><circle cx="1128" cy="150" r="17"/><circle cx="1242" cy="140" r="17"/>
<path d="M520 700C560 660 600 660 640 700C600 740 560 740 520 700Z"/>
<path d="M660 700C700 660 740 660 780 700C740 740 700 740 660 700Z"/>
<path d="M800 700C830 670 860 670 890 700C860 730 830 730 800 700Z"/></g>
</svg>"""

SCARECROW = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1200 1500">
<rect width="1200" height="1500" fill="#fff"/>
<g fill="none" stroke="#101014" stroke-width="12" stroke-linecap="round" stroke-linejoin="round">
<path d="M430 330C430 470 520 540 600 540C680 540 770 470 770 330Z"/>
<path d="M330 330H870M400 330C430 180 500 120 610 110M650 114C715 135 765 205 800 330"/>
<path d="M520 410L550 440M550 410L520 440M650 410L680 440M680 410L650 440"/>
<path d="M530 490C570 515 630 515 670 490"/><path d="M600 440L580 470H620Z"/>
<path d="M180 620L470 560C540 610 660 610 730 560L1020 620L1000 740L800 700L820 1010H390L410 700L200 740Z"/>
<path d="M390 1010L400 1330H560L600 1080L640 1330H770M802 1295L818 1012"/>
<path d="M560 1340V1460M640 1340V1460"/>
<path d="M470 760H560V850H470ZM640 880H740V970H640V912"/>
<path d="M195 640L80 600M190 690L70 690M205 735L100 780M1005 640L1120 600M1010 690L1130 690M995 735L1100 780"/>
</g></svg>"""

LABELS = f"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1500 1100">
<rect width="1500" height="1100" fill="#fff"/>
<g fill="{BEET}"><path d="M250 190C170 180 110 240 110 310C110 390 190 410 240 480C290 410 370 390 370 310C370 240 320 180 250 190Z"/></g>
<path d="M245 190C190 150 180 90 190 50C240 70 260 110 262 150C280 110 310 90 350 80C345 140 310 180 262 196Z" fill="{LEAF}"/>
<path d="M750 480C690 380 680 270 710 190H800C830 270 815 380 750 480Z" fill="#d8772e"/>
<path d="M730 185C700 130 700 90 715 50C740 75 750 105 752 140C765 100 785 80 815 65C820 120 800 160 775 187Z" fill="{LEAF}"/>
<path d="M1130 220C1160 130 1330 130 1370 230C1420 260 1420 330 1370 350C1340 440 1170 440 1130 340C1080 330 1080 240 1130 220Z" fill="#b8402f"/>
<path d="M1250 175L1215 120L1255 140L1265 95L1285 140L1330 125L1290 178Z" fill="{LEAF}"/>
<g fill="{CAN}"><path d="M180 720H350L370 980H160Z"/><path d="M165 900L70 760L100 735L190 830Z"/></g>
<path d="M700 1010V830C640 820 620 760 630 700C700 700 735 740 740 800C745 740 790 690 870 690C875 770 820 825 748 832V1010Z" fill="{LEAF}"/>
<g fill="{SOOT}"><path d="M1150 1000L1330 760L1365 785L1180 1020Z"/><path d="M1300 690C1390 640 1450 700 1440 790L1400 800C1400 740 1370 710 1310 725Z"/></g>
</svg>"""


def render(svg: str, width: int) -> np.ndarray:
    """Render with each pixel the mean of 3 x 3 anti-aliased ones; (H, W, 3) uint8."""
    data = svg_to_bytes(svg_string=svg, width=3 * width)
    fine = np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB"), np.float32)
    high, wide = fine.shape[0] // 3 * 3, fine.shape[1] // 3 * 3
    return np.rint(fine[:high, :wide].reshape(high // 3, 3, wide // 3, 3, 3).mean((1, 3))).astype(np.uint8)


def photographed(drawing: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Lay a drawing on grey paper, at an angle, under a lamp at one side, with grain."""
    height, width = drawing.shape[:2]
    source = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    target = np.array([[70, 40], [width - 20, 90], [width - 90, height - 30], [25, height - 75]], np.float32)
    turn = cv2.getPerspectiveTransform(source, target)
    page = cv2.warpPerspective(drawing, turn, (width, height), flags=cv2.INTER_AREA, borderValue=(255, 255, 255))
    y, x = np.mgrid[0:height, 0:width] / width
    light = 1.0 - 0.45 * np.clip(0.7 * x + 0.5 * y, 0, 1)
    ink = page.astype(np.float32) * np.array([0.80, 0.79, 0.76]) + 18
    shot = cv2.GaussianBlur(ink * light[..., None].astype(np.float32), (0, 0), 1.0)
    grain = cv2.GaussianBlur(rng.normal(0, 9, (height, width)).astype(np.float32), (0, 0), 0.9)
    return np.clip(shot + grain[..., None], 0, 255).astype(np.uint8)


def lantern(rng: np.random.Generator, width: int = 1200, height: int = 1500) -> np.ndarray:
    """A lantern at dusk, with soft shading and grain."""
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    sky = np.array([38, 42, 78]) + (y / height)[..., None] * np.array([120, 60, 20])
    glow = np.exp(-(((x - 600) / 420) ** 2 + ((y - 800) / 480) ** 2))[..., None] * np.array([190, 120, 30])
    picture = sky + glow
    body = (np.abs(x - 600) < 230 - 0.12 * np.abs(y - 800)) & (np.abs(y - 800) < 330)
    shade = 0.75 + 0.35 * np.cos((x - 600) / 230)
    flame = np.exp(-(((x - 600) / 110) ** 2 + ((y - 840) / 190) ** 2))
    paper = np.array([236, 150, 52]) * shade[..., None] + flame[..., None] * np.array([40, 90, 120])
    picture = np.where(body[..., None], paper, picture)
    for centre in (455, 1145):
        bar = (np.abs(y - centre) < 34) & (np.abs(x - 600) < 225)
        picture = np.where(bar[..., None], np.array([52, 36, 32]) * shade[..., None], picture)
    ring = np.abs(np.hypot(x - 600, (y - 400) * 0.9) - 120) < 11
    picture = np.where((ring & (y < 430))[..., None], np.array([40, 30, 30]), picture)
    picture = cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 1.3) + rng.normal(0, 6, (height, width, 1))
    return np.clip(picture, 0, 255).astype(np.uint8)


def main() -> None:
    """Write all pictures."""
    rng = np.random.default_rng(20260613)
    HERE.mkdir(parents=True, exist_ok=True)
    Image.fromarray(render(BADGE, 1600)).save(HERE / "fair-badge.png", optimize=True)
    Image.fromarray(photographed(render(SNAIL, 1400), rng)).save(HERE / "snail.jpg", quality=88)
    Image.fromarray(render(SCARECROW, 1200)).convert("L").save(HERE / "scarecrow.png", optimize=True)
    Image.fromarray(lantern(rng)).save(HERE / "lantern.jpg", quality=88)
    Image.fromarray(render(LABELS, 1500)).save(HERE / "seed-labels.png", optimize=True)
    print("drawn in", HERE)


if __name__ == "__main__":
    main()
