# Degrees of freedom of figures pooled over imputations by Rubin's (1987) rules.

# error: standard errors of everything; within: of what is left within imputations; m imputations; complete: degrees of freedom without gaps
# (Barnard & Rubin, 1999). Inf where nothing was pooled (`within` NULL).
core_pooled_df <- function(error, within, m, complete) {
  if (is.null(within)) {
    return(rep(Inf, length(error)))
  }
  added <- pmin(pmax(1 - (within / error)^2, 0), 1)
  seen <- (complete + 1) / (complete + 3) * complete * (1 - added)
  1 / (added^2 / (m - 1) + 1 / seen)
}
