#' How alike are the factors of two explorations?
#'
#' The factors of the second are matched, and turned, to those of the first, and compared
#' by the coefficient of congruence (Burt, 1948; Tucker, 1951), the cosine between two
#' columns of loadings.
#'
#' @param x,y Results of [sw_explore()], or matrices of loadings (items x factors), on the
#'   same items; of items that only one has nothing is used.
#' @param turn Turn `y` rigidly as near as possible to `x` first (Schönemann, 1966)? For
#'   solutions of different rotation.
#' @param limits Bounds that judge, from [sw_limits()].
#' @return A tibble: `factor` of `x`, `matched` factor of `y`, `congruence` from -1 to 1
#'   (positive after turning), `items` compared, `verdict`.
#' @section Errors: `scalewort_error_input` for anything else, a different number of factors,
#'   or fewer than three items in common.
#' @examples
#' survey <- sw_demo("plotholders")
#' halves <- sw_split(survey)
#' sw_congruence(sw_explore(halves$calibration, 4), sw_explore(halves$validation, 4))
#' @export
sw_congruence <- function(x, y, turn = FALSE, limits = sw_limits()) {
  check_options("congruence")
  a <- loadings_of(x, "x")
  b <- loadings_of(y, "y")
  if (ncol(a) != ncol(b)) stop_input(paste0("`x` has ", count_of(ncol(a), "factor"), ", `y` has ", ncol(b), ": they cannot be matched."))
  items <- intersect(rownames(a), rownames(b))
  if (length(items) < 3) stop_input(paste0("`x` and `y` have ", count_of(length(items), "item"), " in common; three are the least."))
  a <- a[items, , drop = FALSE]
  b <- b[items, , drop = FALSE]
  if (turn) b <- `dimnames<-`(core_procrustes(b, a), list(items, colnames(a)))
  to <- core_match_factors(a, b)
  value <- diag(core_congruence(a, sweep(b[, to$order, drop = FALSE], 2, to$sign, "*")))
  tibble::tibble(factor = colnames(a), matched = colnames(b)[to$order], congruence = unname(value), items = length(items),
    verdict = judge_code(unname(value), limits, "congruence"))
}

loadings_of <- function(x, arg) {
  if (inherits(x, "sw_exploration")) {
    return(x$parts$pattern)
  }
  if (!is.matrix(x) || !is.numeric(x) || anyNA(x) || is.null(rownames(x))) {
    stop_input(paste0("`", arg, "` must be an exploration or a matrix of loadings with item names; this is ", what_is(x), "."))
  }
  if (is.null(colnames(x))) colnames(x) <- paste0("F", seq_len(ncol(x)))
  x
}
