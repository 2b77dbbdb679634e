#' Rotate an exploration again
#'
#' Another rotation of the same factors, without a new extraction.
#'
#' @param exploration A result of [sw_explore()].
#' @param rotation,normalise,gamma,epsilon,kappa,power,target,oblique,starts,errors,seed As
#'   in [sw_explore()]; what is not given stays as it was.
#' @param names Names for the factors.
#' @return A `sw_exploration`.
#' @section Errors: `scalewort_error_input` for anything but an exploration, or for what
#'   [sw_explore()] refuses.
#' @examples
#' exploration <- sw_explore(sw_demo("plotholders"), factors = 4)
#' sw_rotate(exploration, "varimax")
#' @export
sw_rotate <- function(exploration, rotation = NULL, normalise = NULL, gamma = NULL, epsilon = NULL, kappa = NULL, power = NULL,
                      target = NULL, oblique = NULL, starts = NULL, errors = NULL, seed = NULL, names = NULL) {
  check_class(exploration, "sw_exploration", "exploration", "`sw_explore()`")
  parts <- exploration$parts
  given <- list(rotation = rotation, normalise = normalise, gamma = gamma, epsilon = epsilon, kappa = kappa, power = power,
    target = target, oblique = oblique, starts = starts, errors = errors, seed = seed)
  settings <- utils::modifyList(parts$settings, Filter(Negate(is.null), given))
  check_options("explore", c(settings, parts$source[c("missing", "correlation", "smooth")]))
  source <- parts$source
  source$x <- survey_behind(exploration)
  factors <- exploration$about$options$factors
  settings$target <- check_target(settings, colnames(parts$correlations), factors)
  exploration_of(parts$extracted, parts$moments, factors, settings, check_factor_names(names, factors), source, exploration$limits,
    exploration$tables$route)
}
