#!/bin/sh
# Makes timings.txt: modes by VESA CVT with reduced blanking, version 2, as edid-decode (Debian 12) computes them.
#   sh make_timings.sh > timings.txt
# Lines: width, height, rate asked, pixels a line, lines a frame, pixel clock in MHz.
echo "# Made by make_timings.sh with edid-decode of Debian 12."
for mode in 640x400 800x1280 1280x720 1280x800 1366x768 1920x1080 1920x1200 2560x1080 2560x1440 2560x1600 2880x1800 \
    3440x1440 3840x1600 3840x2160 5120x1440 5120x2880 7680x4320; do
    for rate in 24 50 60 75 90 120 144 165 240 360; do
        w=${mode%x*} h=${mode#*x}
        edid-decode --cvt w="$w",h="$h",fps=$rate,rb=2 | awk -v w="$w" -v h="$h" -v rate=$rate '
            /CVT:/ { for (i = 1; i <= NF; i++) if ($i == "MHz") clock = $(i - 1) }
            /Hfront/ { hblank = $2 + $4 + $6 }
            /Vfront/ { vblank = $2 + $4 + $6 }
            END { print w, h, rate, w + hblank, h + vblank, clock }'
    done
done
