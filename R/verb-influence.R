#' Which cases move a confirmation
#'
#' What each case adds to minus twice the log-likelihood, how far it lies from the centre,
#' and how far the estimates would move without it; and how the fit changes when the cases
#' that matter most are left out. It says where to look, not whom to drop.
#'
#' @param x A result of [sw_confirm()] from a survey, by `"ml"` or `"robust"`.
#' @param worst How many of the most influential cases to leave out in turn.
#' @return A `sw_influence` with the tables `cases` (case, answers, minus_two: minus twice the
#'   log-likelihood; distance: squared Mahalanobis distance under the structure, with the p
#'   of its chi-square; cook: generalised Cook's distance to first order, Pek & MacCallum,
#'   2011), most influential first, and `without` (chi-square, CFI, RMSEA, SRMR and the
#'   largest change of a standardised loading when the first 1, 2, ... are left out).
#' @section Errors: `scalewort_error_input` for a confirmation from moments, by another
#'   estimator, or one that may not be believed.
#' @examples
#' survey <- sw_demo("plotholders")
#' sw_influence(sw_confirm(survey, sw_structure(survey)), worst = 5)
#' @export
sw_influence <- function(x, worst = 10) {
  check_class(x, "sw_confirmation", "x", "`sw_confirm()`")
  check_options("influence")
  survey <- survey_behind(x)
  if (is.null(survey) || !x$about$options$estimator %in% c("ml", "robust")) {
    stop_input(message_of("e_single_cases_needed"))
  }
  if (x$about$status != "ok") stop_input(message_of("e_fit_may_not_believed"), faults = x$notes[1])
  items <- rownames(x$parts$observed)
  answers <- source_rows(survey, items)
  incomplete <- x$about$options$missing == "fiml"
  used <- if (incomplete) rowSums(!is.na(answers)) > 0 else stats::complete.cases(answers)
  answers <- answers[used, , drop = FALSE]
  table <- influence_table(x, answers, case_names(survey)[used])
  order <- order(-table$cook)
  without <- without_worst(x, survey, which(used)[order], worst)
  new_result("sw_influence", "title_influence",
    tables = list(cases = table[order, ], without = without),
    notes = note("look_at_cases", message_of("influence_look"), rank = 3L),
    n = nrow(answers), n_left_out = x$about$n_left_out, missing = x$about$missing, options = list(worst = worst), limits = x$limits
  )
}

influence_table <- function(x, answers, cases) {
  cells <- x$parts$cells
  p <- ncol(answers)
  structured <- core_has_means(cells)
  mean <- if (structured) x$parts$implied_mean else colMeans(answers)
  at <- if (structured) answers else sweep(answers, 2, mean)
  gradients <- kernel_case_gradients(cells, p, ncol(x$parts$matrices$factor), at, x$parts$theta, 1L)
  own <- core_case_likelihood(answers, x$parts$implied, mean)
  given <- rowSums(!is.na(answers))
  plain_table(
    case = cases, answers = given, minus_two = own$minus_two, distance = own$distance,
    p.value = core_chi_square_p(own$distance, given), cook = core_cook_distance(gradients, x$parts$estimates_covariance)
  )
}

# How fit moves when the first 1, 2, ... of the cases at these places are left out.
without_worst <- function(x, survey, places, worst) {
  counts <- unique(c(0, pmin(c(1, 2, 3, 5, 10, 20, 50, 100, 200), worst)))
  start <- x$tables$loadings$standardised
  do.call(rbind, lapply(counts, function(k) {
    fit <- if (k == 0) x else confirm_again(x, leave_out_cases(survey, places[seq_len(k)]))
    f <- fit$parts$figures
    plain_table(
      without = k, n = fit$about$n, chi_square = f$chi_square, df = f$df, cfi = f$cfi, rmsea = f$rmsea, srmr = f$srmr,
      largest_change = max(abs(fit$tables$loadings$standardised - start))
    )
  }))
}
