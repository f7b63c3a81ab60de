package ledger

import (
	"fmt"
	"math"
)

// contrast is the contrast ratio of two colours such as #2b4a7e (WCAG 2.2, relative luminance and contrast ratio).
func contrast(a, b string) float64 {
	x, y := luminance(a), luminance(b)
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

func luminance(colour string) float64 {
	var rgb [3]int
	if _, err := fmt.Sscanf(colour, "#%02x%02x%02x", &rgb[0], &rgb[1], &rgb[2]); err != nil {
		return 0
	}
	var part [3]float64
	for i, c := range rgb {
		v := float64(c) / 255
		if v <= 0.04045 {
			part[i] = v / 12.92
		} else {
			part[i] = math.Pow((v+0.055)/1.055, 2.4)
		}
	}
	return 0.2126*part[0] + 0.7152*part[1] + 0.0722*part[2]
}

// lighten mixes a colour with white until it can be read on dark paper.
func lighten(colour string) string {
	var rgb [3]int
	if _, err := fmt.Sscanf(colour, "#%02x%02x%02x", &rgb[0], &rgb[1], &rgb[2]); err != nil {
		return colour
	}
	for step := range 20 {
		mixed := [3]int{}
		for i, c := range rgb {
			mixed[i] = c + (255-c)*step/20
		}
		if light := fmt.Sprintf("#%02x%02x%02x", mixed[0], mixed[1], mixed[2]); contrast(light, darkPaper) >= minContrast+1 {
			return light
		}
	}
	return "#ffffff"
}
