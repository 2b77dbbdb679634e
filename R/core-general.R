# A general factor beside group factors, after Schmid & Leiman (1957).

# r: correlation matrix; groups: number of group factors. The items' oblique factors
# (maximum likelihood, oblimin) are themselves explained by one factor; with two their
# loadings on it are equal. list(status, general: p loadings, group: p x m loadings);
# status "ok", "no_general_factor" where the factors do not all go together, or that of
# the extraction.
core_general_factor <- function(r, groups, seed = 1) {
  general_of(core_extract_ml(r, groups), function(loadings) core_rotate(loadings, "oblimin", starts = 10L, seed = seed))
}

# The same for correlations that are nearly those of `near`, one result of that function: list of results.
core_general_near <- function(matrices, near) {
  lapply(core_extract_each(matrices, ncol(near$pattern), near$uniqueness), general_of, rotate = function(loadings) {
    core_rotate(turned_towards(loadings, near$pattern), "oblimin", starts = 1L)
  })
}

general_of <- function(extracted, rotate) {
  none <- list(status = extracted$status, general = NULL, group = NULL)
  if (extracted$status != "ok") {
    return(none)
  }
  rotated <- rotate(extracted$loadings)
  turned <- core_order_factors(rotated$loadings, rotated$correlations)
  c(core_schmid_leiman(turned$loadings, turned$correlations), extracted["uniqueness"], list(pattern = rotated$loadings))
}

# Loadings turned orthogonally as near to others as can be (Schönemann, 1966).
turned_towards <- function(loadings, goal) {
  apart <- svd(crossprod(loadings, goal))
  loadings %*% tcrossprod(apart$u, apart$v)
}

# Oblique loadings split into a general and group factors: list(status, general, group).
core_schmid_leiman <- function(loadings, correlations) {
  upper <- core_upper_loadings(correlations)
  if (is.null(upper)) {
    return(list(status = "no_general_factor", general = NULL, group = NULL))
  }
  list(status = "ok", general = drop(loadings %*% upper), group = sweep(loadings, 2, sqrt(1 - upper^2), "*"))
}

# Loadings of factors on the one above them; NULL where they do not all go together.
core_upper_loadings <- function(correlations) {
  m <- ncol(correlations)
  if (m == 2) {
    return(if (correlations[1, 2] > 0) rep(sqrt(correlations[1, 2]), 2))
  }
  fit <- core_extract_ml(correlations, 1L)
  upper <- drop(fit$loadings) * (if (sum(fit$loadings) < 0) -1 else 1)
  if (fit$status == "ok" && all(upper > 0)) upper
}

# What a general factor and group factors say of a sum of items, weighted by their
# standard deviations: omega total, hierarchical omega (share of the sum's variance due
# to the general factor), the same for the group factors, and the explained common
# variance (general loadings squared over all loadings squared); McDonald (1999),
# Reise, Moore & Haviland (2010).
core_general_shares <- function(general, group, sd) {
  unique <- 1 - general^2 - rowSums(group^2)
  from_general <- sum(sd * general)^2
  from_groups <- sum(colSums(sd * group)^2)
  total <- from_general + from_groups + sum(sd^2 * unique)
  c(
    omega_total = (from_general + from_groups) / total, omega_hierarchical = from_general / total, omega_group = from_groups / total,
    explained_common = sum(general^2) / (sum(general^2) + sum(group^2))
  )
}
