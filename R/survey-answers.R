# From a column of the file to clean answers: numbers, NA where missing. The
# original column is never changed; reversal comes later (R/survey-keying.R).

analysed_items <- function(survey) survey_items(survey, c("scored", "tryout"))
# Only these items of a survey or moments, named one by one or by subscale, whatever their role was; those
# that belong to no subscale make one, `items`.
only_items <- function(x, items) {
  if (is.null(items)) {
    return(x)
  }
  if (inherits(x, "sw_moments")) {
    return(narrow_moments(x, items))
  }
  items <- pick_items(x, items)
  # Likelihood still looks at the others.
  x$whole <- scored_items(x)
  specs <- x$codebook$items
  named <- specs$item %in% items
  specs$role[!named & specs$role %in% c("scored", "tryout")] <- "aside"
  specs$role[named] <- "scored"
  specs$scale[named & is.na(specs$scale)] <- "items"
  x$codebook$items <- specs
  if (length(x$assumed$beside) > 0) x$assumed$beside <- x$assumed$beside[setdiff(names(x$assumed$beside), items)]
  x
}

# Subscales and their items; items without a subscale make none.
survey_scales <- function(survey, roles = "scored") {
  scales <- codebook_scales(survey$codebook, roles)
  scales[lengths(scales) > 0]
}

# The survey with one item's direction changed, on record.
turn_item <- function(survey, item, reason) {
  row <- match(item, survey$codebook$items$item)
  old <- survey$codebook$items$direction[row]
  new <- other_direction(old)
  survey$codebook$items$direction[row] <- new
  log_step(survey, "keying changed", message_of("log_turned", item = item, from = old, to = new, reason = reason))
}

# The survey with subscales given to items that have none: a named list of items, some of them
# turned, on record.
give_scales <- function(survey, scales, against = character(), said = "log_factors_given") {
  for (name in names(scales)) {
    rows <- match(scales[[name]], survey$codebook$items$item)
    rows <- rows[is.na(survey$codebook$items$scale[rows])]
    survey$codebook$items$scale[rows] <- name
  }
  listed <- messages_of("name_aside", name = names(scales), aside = vapply(scales, paste, "", collapse = " "))
  survey <- log_step(survey, "subscales given", message_of(said, scales = listed))
  ranged <- survey$codebook$items$item[!is.na(survey$codebook$items$lowest)]
  for (item in intersect(against, ranged)) survey <- turn_item(survey, item, "it loads against its factor")
  survey
}
