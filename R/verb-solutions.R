# Explorations with several numbers of factors, side by side.

explore_several <- function(call) {
  numbers <- call$factors
  check_factor_list(numbers)
  if (!is.null(call$names)) stop_input(message_of("e_names_goes_one"))
  solutions <- lapply(numbers, function(m) do.call(sw_explore, utils::modifyList(call, list(factors = m), keep.null = TRUE)))
  names(solutions) <- numbers
  first <- solutions[[1]]
  new_result("sw_solutions", "title_solutions",
    tables = list(comparison = do.call(rbind, lapply(solutions, solution_row))), notes = solutions_notes(solutions),
    n = first$about$n, n_left_out = first$about$n_left_out, missing = first$about$missing,
    status = if (all(vapply(solutions, function(s) s$about$status == "ok", TRUE))) "ok" else "not_converged",
    options = c(list(factors = numbers), first$about$options[setdiff(names(first$about$options), c("factors", "iterations", "largest_gradient",
      "extraction_starts"))]), parts = list(solutions = solutions), limits = first$limits
  )
}

check_factor_list <- function(numbers) {
  if (anyNA(numbers) || any(numbers < 1) || any(numbers != round(numbers)) || anyDuplicated(numbers)) {
    stop_input(message_of("e_factors_must_different"))
  }
}

solution_row <- function(x) {
  fit <- x$tables$fit
  place <- x$tables$items$place
  figures <- as.list(fit[c("chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr")])
  do.call(plain_table, c(list(factors = x$about$options$factors), figures, list(
    share_of_total = sum(x$tables$variance$share_of_total), clear = sum(place == "clear"), crossing = sum(place == "crosses"),
    nowhere = sum(place == "nowhere"), thin = thin_factors(x), large_residuals = sum(x$tables$residuals$verdict %in% "missed")
  )))
}

# Factors on which fewer than three items load.
thin_factors <- function(x) sum(colSums(abs(x$parts$pattern) >= limit(x$limits, "loading")$bound) < 3)

solutions_notes <- function(solutions) {
  unlist(recursive = FALSE, lapply(names(solutions), function(m) {
    x <- solutions[[m]]
    thin <- thin_factors(x)
    bound <- names(x$parts$uniqueness)[x$parts$uniqueness <= .005 * (1 + 1e-6)]
    c(
      if (x$about$status != "ok") note("not_usable", message_of("solution_not_usable", factors = m, why = status_message(x$about$status)),
        factors = m, rank = 1L),
      if (length(bound) > 0) note("uniqueness_at_bound", message_of("solution_at_bound", factors = m, items = bound), bound, factors = m, rank = 1L),
      if (thin > 0) note("thin_factor", message_of("solution_thin", factors = m, thin = thin), factors = m)
    )
  }))
}

#' Take one of several explorations
#'
#' `solutions[[4]]` is the exploration with four factors. `sw_pick()` is the former name.
#'
#' @param x What [sw_explore()] gives for several numbers of factors.
#' @param i,factors The number of factors wanted.
#' @param ... None.
#' @return A `sw_exploration`.
#' @section Errors: `scalewort_error_input` for a number that was not explored.
#' @examples
#' solutions <- sw_explore(sw_demo("plotholders"), factors = 3:5)
#' solutions[[4]]
#' @export
`[[.sw_solutions` <- function(x, i, ...) if (is.numeric(i)) picked(x, i) else NextMethod()

#' @rdname sub-sub-.sw_solutions
#' @export
sw_pick <- function(x, factors) {
  check_class(x, "sw_solutions", "x", message_of("explore_several"))
  tell_former(message_of("former_name", old = "sw_pick(x, factors)", new = "x[[factors]]"))
  picked(x, factors)
}

picked <- function(x, factors) {
  known <- names(x$parts$solutions)
  if (length(factors) != 1 || !as.character(factors) %in% known) {
    stop_input(message_of("e_factors_must_one", known = known, factors = shown(factors)))
  }
  x$parts$solutions[[as.character(factors)]]
}
