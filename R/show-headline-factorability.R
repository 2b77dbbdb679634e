# The answer of a factorability, and what to look at first.

#' @export
headline.sw_factorability <- function(x) {
  overall <- x$tables$overall
  fails <- overall$figure[overall$verdict %in% "missed"]
  paste0(
    if (length(fails) == 0) "The items can be factored. " else paste0("Look first at ", and_list(tolower(column_header(fails))), ". "),
    "Sampling adequacy ", coefficient_text(overall$value[1]), " (", verdict_column(overall, "verdict")[1], "); sphericity chi-square ",
      decimals(overall$value[2], 2),
    " on ", overall$df[2], " df, p ", p_words(overall$p.value[2]), "."
  )
}

#' @export
first_look.sw_factorability <- function(x) {
  items <- x$tables$items
  list(x$tables$overall[c("figure", "value", "df", "p.value", "verdict", "meaning")], items[order(items$sampling_adequacy)[seq_len(min(5,
    nrow(items)))], ])
}
