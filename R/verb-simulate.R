#' Simulate answers from a structure
#'
#' Normal factors and residuals with the stated standardised values, cut into answers at thresholds
#' where `categories` asks for them: to try out an analysis before there are answers, or to see what
#' it finds when the truth is known.
#'
#' @param structure A [sw_structure()], or a result of [sw_confirm()], whose estimates are then true.
#' @param n Number of people.
#' @param loading Standardised loadings: one number, or named by item; an item on k factors has it
#'   over the root of k on each.
#' @param correlation Correlation of linked factors.
#' @param path Standardised paths of factors below others.
#' @param categories Number of ordered answers (2 to 11), or `NULL` for continuous ones.
#' @param skew Shift of the thresholds in standard deviations: above 0 most answers are low.
#' @param missing Share of answers missing completely at random.
#' @param seed Seed.
#' @return A survey with the columns `id` and the items, whose codebook has the structure's factors
#'   as subscales.
#' @section Errors: `scalewort_error_input` for values out of range, or loadings that leave an item
#'   no variance of its own.
#' @examples
#' structure <- sw_structure(calm = c("c1", "c2", "c3"), craft = c("k1", "k2", "k3"))
#' sw_reliability(sw_simulate(structure, 300, loading = .7, correlation = .4))
#' @export
sw_simulate <- function(structure, n, loading = .7, correlation = .3, path = .7, categories = 5, skew = 0, missing = 0, seed = 1) {
  check_class(structure, c("sw_structure", "sw_confirmation"), "structure", "`sw_structure()` or `sw_confirm()`")
  check_options("simulate")
  truth <- if (inherits(structure, "sw_confirmation")) stats::cov2cor(structure$parts$implied) else
    structure_truth(structure, loading, correlation, path)$covariance
  own <- if (inherits(structure, "sw_confirmation")) structure$parts$structure else structure
  items <- structure_items(own)
  answers <- with_seed(seed, {
    x <- matrix(random_draws$normal(n * length(items)), n) %*% chol(truth)
    if (missing > 0) x[matrix(random_draws$normal(n * length(items)) < stats::qnorm(missing), n)] <- NA
    x
  })
  if (!is.null(categories)) answers[] <- findInterval(answers, seq(-1.5, 1.5, length.out = categories + 1)[-c(1, categories + 1)] + skew) + 1
  colnames(answers) <- items
  home <- vapply(items, function(i) names(own$factors)[vapply(own$factors, function(f) i %in% f, TRUE)][1], "")
  book <- data.frame(item = items, scale = home, lowest = if (is.null(categories)) -99 else 1, highest = if (is.null(categories)) 99 else categories)
  sw_survey(cbind(data.frame(id = seq_len(n)), as.data.frame(answers)), book, id = "id")
}
