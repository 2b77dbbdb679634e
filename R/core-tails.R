# Tails and widths of known distributions, once.

# Chance of a chi-square beyond this one; NA without df.
core_chi_square_p <- function(chi_square, df) stats::pchisq(chi_square, ifelse(df > 0, df, NA), lower.tail = FALSE)

# How many errors an interval at this level reaches to either side, by the normal distribution: 1.96 at .95.
core_normal_edge <- function(level) stats::qnorm((1 + level) / 2)
