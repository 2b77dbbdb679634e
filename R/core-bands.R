# Score bands: people cut into groups of about equal size, ties kept together.

# Band 1 (lowest) to `bands` of each value; NA where there is none. A value's band
# is set by the share of people below it plus half of those at it.
core_bands <- function(x, bands) {
  seen <- !is.na(x)
  place <- (rank(x[seen], ties.method = "average") - 0.5) / sum(seen)
  out <- rep(NA_integer_, length(x))
  out[seen] <- pmin(bands, floor(place * bands) + 1L)
  out
}
