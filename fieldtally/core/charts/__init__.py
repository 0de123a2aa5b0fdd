"""Charts as SVG, for paper and for taking along: the same dots, hues, letters and line styles as on the screen."""
