#' Say still more about a structure
#'
#' `sw_add_higher()` puts a factor above others; `sw_add_general()` a general factor beside
#' group factors, uncorrelated with them, which then are uncorrelated among themselves;
#' `sw_add_wording()` a factor of how items are worded, uncorrelated with all others: one that the
#' reversed items share beside what they measure (Marsh, 1996), or one of all items, that of agreeing to
#' whatever is said, with loadings of 1 on items as they are and -1 on reversed ones (Maydeu-Olivares &
#' Coffman, 2006).
#' `sw_fix()` sets a parameter to a value; `sw_equate()` makes parameters equal;
#' `sw_constrain()` keeps a parameter within bounds; `sw_add_means()` says what is known of means:
#' intercepts of all items are then estimated with the rest.
#' `sw_item_model()` says in a word how the items of a factor are alike;
#' `sw_add_single()` adds a factor of one item whose reliability is known.
#'
#' A parameter is named by what it joins: an item and a factor (loading), two items
#' (residual covariance), two factors (their covariance, or the path from the one above),
#' one item (residual variance), one factor (variance).
#'
#' @param structure A [sw_structure()].
#' @param name Name of the new factor.
#' @param factors Factors below it; for `sw_add_means()` those whose mean is estimated (each
#'   then needs an intercept that is fixed, or equal to a fixed one).
#' @param items Items of the general factor; all by default. For `sw_add_wording()`: `"reversed"` or `"all"`.
#' @param reversed Names of the reversed items, or a codebook or survey that says which they are; not needed
#'   for a structure made from one.
#' @param one,other What the parameter joins; `other` is left out for a variance.
#' @param value Its value. A loading or path fixed at another value than zero gives its factor the
#'   scale: the factor's variance is then estimated, unless it is fixed too.
#' @param low,high Bounds.
#' @param intercepts Fixed intercepts, as named numbers (`c(calm1 = 0)`).
#' @param equal Items whose intercepts are equal: a vector of names, or a list of such.
#' @param ... Two or more parameters, each a vector such as `c("calm1", "calm")`.
#' @param factor Name of a factor.
#' @param model `"parallel"` (equal loadings and residual variances), `"tau"` (equal
#'   loadings) or `"congeneric"` (no equality).
#' @param item An item.
#' @param reliability Its reliability, between 0 and 1.
#' @return The structure with that one thing added.
#' @section Errors: `scalewort_error_structure` for unknown items or factors, names that are
#'   taken, or parameters that the structure does not have.
#' @examples
#' sw_structure(sw_demo("plotholders")) |>
#'   sw_add_higher("good of the plot", c("calm", "craft", "kinship", "stewardship"))
#' sw_structure(sw_demo("plotholders")) |> sw_add_general()
#' sw_structure(sw_demo("plotholders")) |> sw_add_wording()
#' sw_structure(sw_demo("plotholders")) |>
#'   sw_fix("calm6", "calm", value = 0) |>
#'   sw_equate(c("craft5", "craft"), c("craft6", "craft")) |>
#'   sw_item_model("kinship", "tau") |>
#'   sw_constrain("calm", "craft", low = 0, high = 1)
#' sw_structure(sw_demo("plotholders")) |>
#'   sw_item_model("kinship", "parallel") |>
#'   sw_add_means(equal = c("kin1", "kin2", "kin3", "kin4", "kin5"))
#' @export
sw_add_higher <- function(structure, name, factors, ...) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  given <- list(...)
  if (length(given) > 0) {
    if (!missing(name) || !missing(factors) || length(given) > 1 || is.null(names(given)) || !nzchar(names(given))) {
      stop_input(message_of("e_higher_factor_given"))
    }
    name <- names(given)
    factors <- given[[1]]
  }
  check_new_factor(structure, name)
  check_in_structure(factors, structure_factor_names(structure), "factor")
  taken <- intersect(factors, unlist(structure$higher, use.names = FALSE))
  if (length(taken) > 0) stop_structure(message_of("e_there_factor_above", taken = taken))
  if (length(unique(factors)) < 2) stop_structure(message_of("e_higher_factor_needs"))
  structure$higher[[name]] <- unique(factors)
  structure
}

#' @rdname sw_add_higher
#' @export
sw_add_general <- function(structure, name = "general", items = NULL) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  check_new_factor(structure, name)
  groups <- names(structure$factors)
  if (is.null(items)) items <- structure_items(structure)
  check_in_structure(items, structure_items(structure), "item")
  structure$factors[[name]] <- items
  pairs <- utils::combn(c(groups, name), 2, simplify = FALSE)
  said <- vapply(structure$unlinked, function(pair) paste(sort(pair), collapse = "\r"), "")
  for (pair in pairs) if (!paste(sort(pair), collapse = "\r") %in% said) structure$unlinked <- c(structure$unlinked, list(pair))
  structure
}

#' @rdname sw_add_higher
#' @export
sw_add_wording <- function(structure, reversed = NULL, items = "reversed", name = "wording") {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  check_choice(items, c("reversed", "all"), "items")
  known <- structure_items(structure)
  turned <- if (is.null(reversed)) structure$reversed else if (is.character(reversed)) reversed else reversed_items(reversed)
  if (is.null(turned)) {
    stop_structure(message_of("e_structure_does_not"), hint = message_of("e_give_their_names"))
  }
  if (is.character(reversed)) check_in_structure(turned, known, "item")
  turned <- intersect(known, turned)
  least <- if (items == "reversed") 3 else 1
  if (length(turned) < least || length(turned) == length(known)) {
    stop_structure(message_of("e_items_reversed_factor", turned = length(turned), known = length(known),
      turned_said = if (length(turned) == 1) message_of("e_said") else message_of("e_said_two"), least = least))
  }
  check_new_factor(structure, name)
  others <- structure_factor_names(structure)
  structure$factors[[name]] <- if (items == "reversed") turned else known
  structure$unlinked <- c(structure$unlinked, lapply(others, function(other) c(other, name)))
  if (items == "all") {
    structure$fixed <- c(structure$fixed, lapply(known, function(item) list(one = item, other = name, value = if (item %in% turned) -1 else 1)))
  }
  structure
}

# Names of the reversed items of a codebook or survey.
reversed_items <- function(x) {
  if (!inherits(x, "sw_codebook") && !has_answers(x)) {
    stop_input(message_of("e_reversed_must_names", x = what_is(x)))
  }
  book <- if (inherits(x, "sw_codebook")) x else x$codebook
  book$items$item[is_turned(book$items)]
}

#' @rdname sw_add_higher
#' @export
sw_fix <- function(structure, one, other = NULL, value) {
  check_number(value, "value")
  parameter <- check_parameter(structure, c(one, other))
  structure$fixed <- c(structure$fixed, list(list(one = parameter[1], other = if (length(parameter) > 1) parameter[2], value = value)))
  structure
}

#' @rdname sw_add_higher
#' @export
sw_equate <- function(structure, ...) {
  group <- list(...)
  if (length(group) < 2) stop_structure(message_of("e_two_parameters_at"))
  structure$equal <- c(structure$equal, list(lapply(group, function(p) check_parameter(structure, p))))
  structure
}

#' @rdname sw_add_higher
#' @export
sw_item_model <- function(structure, factor, model) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  check_in_structure(factor, names(structure$factors), "factor")
  check_choice(model, c("parallel", "tau", "congeneric"), "model")
  items <- structure$factors[[factor]]
  if (model != "congeneric" && length(items) > 1) {
    structure$equal <- c(structure$equal, list(lapply(items, function(item) c(item, factor))))
    if (model == "parallel") structure$equal <- c(structure$equal, list(as.list(items)))
  }
  structure
}

#' @rdname sw_add_higher
#' @export
sw_add_single <- function(structure, name, item, reliability) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  check_new_factor(structure, name)
  check_string(item, "item")
  check_number(reliability, "reliability", .01, 1)
  structure$factors[[name]] <- item
  structure$fixed <- c(structure$fixed, list(list(one = item, other = NULL, value = 1 - reliability, share = TRUE)))
  structure
}

#' @rdname sw_add_higher
#' @export
sw_constrain <- function(structure, one, other = NULL, low = -Inf, high = Inf) {
  parameter <- check_parameter(structure, c(one, other))
  if (!is.numeric(c(low, high)) || length(c(low, high)) != 2 || anyNA(c(low, high)) || low >= high) {
    stop_structure(message_of("e_bounds_two_numbers"))
  }
  structure$bounds <- c(structure$bounds, list(list(
    one = parameter[1], other = if (length(parameter) > 1) parameter[2], low = as.numeric(low), high = as.numeric(high)
  )))
  structure
}

#' @rdname sw_add_higher
#' @export
sw_add_means <- function(structure, factors = NULL, intercepts = NULL, equal = NULL) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  check_in_structure(factors, structure_factor_names(structure), "factor")
  equal <- if (is.null(equal) || is.list(equal)) equal else list(equal)
  check_in_structure(c(names(intercepts), unlist(equal)), structure_items(structure), "item")
  if (length(intercepts) > 0 && (!is.numeric(intercepts) || is.null(names(intercepts)) || anyNA(intercepts))) {
    stop_structure(message_of("e_intercepts_named_numbers"))
  }
  structure$means <- list(factors = as.character(factors), intercepts = as.list(intercepts), equal = lapply(equal, unique))
  structure
}

check_new_factor <- function(structure, name) {
  check_string(name, "name")
  if (name %in% c(structure_factor_names(structure), structure_items(structure))) {
    stop_structure(message_of("e_name_taken", name = name))
  }
}

# A parameter's name: one or two of the structure's items and factors.
check_parameter <- function(structure, parameter) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  if (!is.character(parameter) || !length(parameter) %in% 1:2 || anyNA(parameter)) {
    stop_structure(message_of("e_parameter_named_one"), hint = message_of("e_example_c_calm"))
  }
  check_in_structure(parameter, c(structure_items(structure), structure_factor_names(structure)), "item or factor")
  parameter
}

#' @rdname sw_add_higher
#' @export
sw_bound <- function(structure, one, other = NULL, low = -Inf, high = Inf) {
  tell_former(message_of("former_name", old = "sw_bound()", new = "sw_constrain()"))
  sw_constrain(structure, one, other, low, high)
}
