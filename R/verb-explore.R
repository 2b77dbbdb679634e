#' Exploratory factor analysis
#'
#' Maximum likelihood extraction (Joreskog, 1967) from the correlation matrix,
#' then rotation. Factors are ordered by the variance they explain, each turned
#' so that its loadings sum to a positive number.
#'
#' @param x A survey or [sw_moments()].
#' @param factors Number of factors, from 1 to the largest number that leaves no
#'   negative degrees of freedom.
#' @param extraction `"ml"`.
#' @param rotation `"oblimin"` (Jennrich & Sampson, 1966), `"promax"`
#'   (Hendrickson & White, 1964), `"varimax"` (Kaiser, 1958) or `"none"`.
#' @param items For a survey: items or subscales to take; all scored by default.
#' @param missing `"listwise"` or `"pairwise"`.
#' @param normalise `"kaiser"` (rows brought to length one while rotating) or
#'   `"none"`.
#' @param gamma Obliqueness of oblimin; 0 is the usual choice.
#' @param power Power of promax.
#' @param starts Number of random starts of the rotation.
#' @param multiplier `"n"`: chi-square = n F, as in a confirmation;
#'   `"bartlett"`: n - 1 - (2p + 5)/6 - 2m/3 (Bartlett, 1950).
#' @param names Names for the factors, in their order; `F1`, `F2`, ... else.
#' @param seed Seed of the random starts.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A `sw_exploration` with the tables `pattern` (item, a column of
#'   loadings per factor, communality, uniqueness, `belongs`), `structure`
#'   (correlations of items with factors), `factor_correlations`, `variance`
#'   (sum of squares, share of total and of common variance per factor) and `fit`
#'   (chi-square, df, p, RMSEA with 90% interval, TLI, CFI, SRMR). `parts` holds
#'   the matrices.
#' @section Errors: `scalewort_error_input` for an impossible number of factors;
#'   `scalewort_error_numeric` for a matrix that is not positive definite or an
#'   item without variance.
#' @examples
#' exploration <- sw_explore(sw_demo("plotholders"), factors = 4)
#' exploration
#' sw_structure(exploration)
#' @export
sw_explore <- function(x, factors, extraction = "ml", rotation = "oblimin", items = NULL,
                       missing = "listwise", normalise = "kaiser", gamma = 0, power = 4,
                       starts = 30, multiplier = "n", names = NULL, seed = 1,
                       limits = sw_limits()) {
  check_choice(extraction, "ml", "extraction")
  check_choice(rotation, c("oblimin", "promax", "varimax", "none"), "rotation")
  check_choice(normalise, c("kaiser", "none"), "normalise")
  check_choice(multiplier, c("n", "bartlett"), "multiplier")
  check_number(gamma, "gamma", -100, 1)
  check_number(power, "power", 1, 20)
  check_number(starts, "starts", 1, 1e5, whole = TRUE)
  check_seed(seed)
  check_limits(limits)
  moments <- as_moments(x, items, missing)
  check_factor_input(moments)
  r <- core_correlation(moments$covariance)
  check_factor_number(if (missing(factors)) NULL else factors, ncol(r))
  labels <- check_factor_names(names, factors)

  extracted <- core_extract_ml(r, factors)
  rotated <- core_rotate(extracted$loadings, rotation, normalise, as.integer(starts), seed, power, gamma = gamma)
  ordered <- core_order_factors(rotated$loadings, rotated$correlations)
  colnames(ordered$loadings) <- labels
  dimnames(ordered$correlations) <- list(labels, labels)
  fit <- exploration_fit(r, extracted, moments$n, factors, multiplier)
  new_result("sw_exploration", "Exploratory factor analysis",
    tables = exploration_tables(ordered, fit, limits),
    notes = exploration_notes(extracted, rotated, ordered, moments, rotation, limits),
    n = moments$n, n_left_out = moments$n_left_out, missing = moments$missing,
    status = extracted$status,
    options = list(
      factors = factors, extraction = extraction, rotation = if (factors == 1) "none" else rotation,
      normalise = normalise, starts = starts, multiplier = multiplier, seed = seed,
      iterations = extracted$iterations, largest_gradient = extracted$largest_gradient
    ),
    parts = list(
      pattern = ordered$loadings, structure = ordered$loadings %*% ordered$correlations,
      factor_correlations = ordered$correlations, uniqueness = extracted$uniqueness,
      unrotated = extracted$loadings, correlations = r, rotation = rotated, origin = moments$origin
    ),
    limits = limits
  )
}

check_factor_number <- function(factors, p) {
  most <- core_most_factors(p)
  if (is.null(factors)) {
    stop_input("`factors`, the number of factors, is needed.", hint = "`sw_retention()` suggests one.")
  }
  if (most < 1) stop_input(paste0(p, " items are too few to test even one factor."))
  check_number(factors, "factors", 1, most, whole = TRUE)
}

check_factor_names <- function(names, factors) {
  if (is.null(names)) {
    return(paste0("F", seq_len(factors)))
  }
  if (!is.character(names) || length(names) != factors || anyNA(names) || anyDuplicated(names) || any(names == "")) {
    stop_input(paste0("`names` must be ", factors, " different names, one a factor; this is ", what_is(names), "."))
  }
  names
}

exploration_fit <- function(r, extracted, n, m, multiplier) {
  p <- ncol(r)
  df <- core_exploration_df(p, m)
  factor <- if (multiplier == "n") n else n - 1 - (2 * p + 5) / 6 - 2 * m / 3
  chi_square <- factor * extracted$discrepancy
  implied <- tcrossprod(extracted$loadings) + diag(extracted$uniqueness)
  baseline <- core_baseline(r, n)
  error <- core_rmsea(chi_square, df, n)
  tibble::tibble(
    chi_square = chi_square, df = df,
    p.value = if (df > 0) stats::pchisq(chi_square, df, lower.tail = FALSE) else NA_real_,
    rmsea = error$estimate, conf.low = error$low, conf.high = error$high,
    cfi = core_cfi(chi_square, df, baseline), tli = core_tli(chi_square, df, baseline),
    srmr = core_srmr(r, implied)
  )
}

exploration_tables <- function(ordered, fit, limits) {
  pattern <- ordered$loadings
  structure <- pattern %*% ordered$correlations
  communality <- unname(rowSums(pattern * structure))
  table <- matrix_table(pattern, "item")
  table$communality <- communality
  table$uniqueness <- 1 - communality
  table$belongs <- item_home(pattern, limits)
  explained <- core_variance_explained(pattern, ordered$correlations)
  list(
    pattern = table, structure = matrix_table(structure, "item"),
    factor_correlations = matrix_table(ordered$correlations, "factor"),
    variance = tibble::tibble(
      factor = colnames(pattern), sum_of_squares = unname(explained),
      share_of_total = unname(explained) / nrow(pattern), share_of_common = unname(explained / sum(explained))
    ),
    fit = fit
  )
}

# What each item's row of loadings says, in a word or two.
item_home <- function(pattern, limits) {
  size <- abs(pattern)
  home <- max.col(size, ties.method = "first")
  largest <- size[cbind(seq_len(nrow(size)), home)]
  second <- apply(size, 1, function(row) if (length(row) > 1) sort(row, decreasing = TRUE)[2] else 0)
  clear <- meets(largest, limits, "loading")
  crosses <- clear & !meets(largest - second, limits, "loading_gap")
  next_home <- apply(size, 1, function(row) colnames(pattern)[order(row, decreasing = TRUE)[min(2, length(row))]])
  ifelse(!clear, "none",
    ifelse(crosses, paste(colnames(pattern)[home], "and", next_home), colnames(pattern)[home])) |>
    unname()
}

exploration_notes <- function(extracted, rotated, ordered, moments, rotation, limits) {
  home <- item_home(ordered$loadings, limits)
  bound <- names(extracted$uniqueness)[extracted$uniqueness <= .005 + 1e-9]
  lonely <- colnames(ordered$loadings)[colSums(abs(ordered$loadings) >= limit(limits, "loading")$bound) < 3]
  none <- rownames(ordered$loadings)[home == "none"]
  crossing <- rownames(ordered$loadings)[grepl(" and ", home)]
  c(
    if (extracted$status != "ok") paste0("Do not use these loadings: ", status_words(extracted$status), "."),
    if (length(bound) > 0) paste0("Uniqueness stopped at its lower bound (.005) for ", and_list(bound),
      ": an improper solution. Try fewer factors or leave the item out."),
    if (rotated$status != "ok") "The rotation did not converge; the best it reached is shown.",
    rotation_note(rotated),
    if (ncol(ordered$loadings) == 1 && rotation != "none") "A single factor has nothing to rotate.",
    if (length(none) > 0) paste0("No loading reaches ", bound_text(limit(limits, "loading")$bound), ": ", and_list(none), "."),
    if (length(crossing) > 0) {
      paste0("Loads on two factors (gap under ", bound_text(limit(limits, "loading_gap")$bound), "): ", and_list(crossing), ".")
    },
    if (length(lonely) > 0) paste0("Fewer than three items load on ", and_list(lonely), ": too few to make a subscale."),
    small_sample_note(moments),
    left_out_note(moments)
  )
}

# How often the best minimum was found, when not always.
rotation_note <- function(rotated) {
  values <- rotated$values
  if (length(values) < 2) {
    return(NULL)
  }
  best <- sum(!is.na(values) & values < min(values, na.rm = TRUE) + 1e-6)
  if (best == length(values)) {
    return(NULL)
  }
  paste0("The rotation has more than one resting place: ", best, " of ", length(values),
    " random starts reached the best, which is shown.")
}
