# What a codebook says of its items.

survey_items <- function(survey, roles) {
  items <- survey$codebook$items
  items$item[items$role %in% roles]
}

# Items in the codebook's order, by role.
scored_items <- function(survey) survey_items(survey, "scored")

# Items that have a right answer; they cannot be reversed.
test_items <- function(survey) survey$codebook$items$item[!is.na(survey$codebook$items$answer)]

# Items in use that have a right answer.
keyed_items <- function(codebook) codebook$items$item[codebook$items$role != "aside" & !is.na(codebook$items$answer)]

# Items of a test about whose blanks the codebook says nothing.
silent_items <- function(codebook) {
  specs <- codebook$items
  items <- keyed_items(codebook)
  items[!vapply(items, function(item) "blank" %in% missing_codes(specs$missing[match(item, specs$item)])$code, TRUE)]
}

# The codebook's rows of items.
item_spec <- function(survey, items) {
  specs <- .subset2(survey, "codebook")$items
  list2DF(lapply(unclass(specs), `[`, match(items, specs$item)))
}

# The whole numbers from lowest to highest, where there are at most 30.
item_options <- function(spec) {
  whole <- is.finite(spec$lowest) && spec$highest - spec$lowest < 30 && spec$lowest == round(spec$lowest)
  if (whole) seq(spec$lowest, spec$highest) else numeric()
}

# A group column that the codebook lists with labels (role aside) gets them.
label_groups <- function(data, codebook, group) {
  for (column in group) {
    labels <- parse_labels(codebook$items$labels[match(column, codebook$items$item)])
    if (length(labels) > 0) {
      seen <- match(as.character(data[[column]]), format_answer(labels))
      data[[column]] <- ifelse(is.na(seen), as.character(data[[column]]), names(labels)[seen])
    }
  }
  data
}

# How chosen items are keyed: list(shift, sign), keyed = shift + sign x as given.
keying_of <- function(survey, items) {
  specs <- item_spec(survey, items)
  turned <- is_turned(specs)
  list(shift = ifelse(turned, turn_sum(specs), 0), sign = ifelse(turned, -1, 1))
}

is_turned <- function(specs) specs$direction %in% "reversed" & is.na(specs$answer)

# An answer and its opposite add up to this.
turn_sum <- function(specs) specs$lowest + specs$highest

add_missing_codes <- function(codebook, codes) {
  if (is.null(codes)) {
    return(codebook)
  }
  old <- codebook$items$missing
  codebook$items$missing <- trimws(paste(ifelse(is.na(old), "", old), paste(quoted_codes(codes), collapse = " ")))
  codebook
}
