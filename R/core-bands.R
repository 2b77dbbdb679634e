# Score bands: people cut into groups of about equal size, ties kept together.

# Band 1 (lowest) to `bands` of each value; NA where there is none. A value's band
# is set by the share of people below it plus half of those at it. n: how many people
# each value stands for.
core_bands <- function(x, bands, n = rep(1, length(x))) {
  seen <- !is.na(x)
  values <- sort(unique(x[seen]))
  at <- match(x[seen], values)
  size <- rowsum(n[seen], at)[, 1]
  place <- (cumsum(size) - size / 2) / sum(size)
  out <- rep(NA_integer_, length(x))
  out[seen] <- as.integer(pmin(bands, floor(place * bands) + 1))[at]
  out
}
