# The answer of each result in a sentence or two, and the table (or list of
# tables) to show first.

headline <- function(x) UseMethod("headline")
first_look <- function(x) UseMethod("first_look")

#' @export
first_look.default <- function(x) x$tables[[1]]

#' @export
headline.sw_screening <- function(x) {
  flags <- x$tables$flags
  items <- nrow(x$tables$items)
  if (nrow(flags) == 0) {
    return(paste0(count_of(items, "item"), " screened, none flagged."))
  }
  flagged <- unique(flags$item)
  paste0(count_of(items, "item"), " screened, ", length(flagged), " flagged: ",
    and_list(vapply(flagged, function(i) paste0(i, " (", and_list(flags$what[flags$item == i]), ")"), "")), ".")
}

#' @export
first_look.sw_screening <- function(x) {
  table <- x$tables$items
  keyed <- any(!is.na(table$difficulty))
  wanted <- c("item", "missing", if (keyed) "difficulty" else c("mean", "sd", "skewness", "kurtosis", "at_lowest", "at_highest"), "item_rest_r")
  flags <- x$tables$flags[c("item", "what", "value", "bound", "advice")]
  c(list(table[wanted]), if (nrow(flags) > 0) list(flags))
}

#' @export
headline.sw_keying <- function(x) {
  wrong <- x$tables$items[x$tables$items$agrees == "no", ]
  unclear <- sum(x$tables$items$agrees == "unclear")
  start <- if (nrow(wrong) == 0) {
    "Every item that points clearly points the way the codebook says."
  } else {
    paste0(
      count_of(nrow(wrong), "item points", "items point"), " against the codebook: ", and_list(paste0(wrong$item, " in ", wrong$scale)), "."
    )
  }
  paste0(start, if (unclear > 0) paste0(" ", count_of(unclear, "item is", "items are"), " unclear."))
}

#' @export
first_look.sw_keying <- function(x) {
  items <- x$tables$items[x$tables$items$agrees != "yes", ]
  c(list(x$tables$scales[c("scale", "items", "n", "alpha", "disagree", "alpha_turned", "negative", "lowest_r")]),
    if (nrow(items) > 0) list(items))
}

#' @export
headline.sw_option_curves <- function(x) {
  flags <- x$tables$flags
  items <- unique(x$tables$curves$item)
  wrong <- unique(flags$item[flags$what == "key looks wrong"])
  drawing <- unique(flags$item[flags$what == "draws the strongest"])
  words <- c(
    if (length(wrong) > 0) paste0("The key looks wrong: ", and_list(wrong), "."),
    if (length(drawing) > 0) paste0("A wrong option draws the strongest: ", and_list(drawing), "."),
    if (nrow(flags) == 0 && any(!is.na(x$tables$curves$right))) "No option is flagged.",
    if (all(is.na(x$tables$curves$right))) "Answers by band are shown, not judged: no item has a right answer.",
    paste0(count_of(length(items), "item"), " in ", x$about$options$bands, " score bands.")
  )
  paste(words, collapse = " ")
}

# Test items: the share of each option by band; others: the mean answer by band.
#' @export
first_look.sw_option_curves <- function(x) {
  curves <- x$tables$curves
  tests <- curves[!is.na(curves$right), ]
  flags <- x$tables$flags
  c(
    if (nrow(flags) > 0) list(flags[c("item", "option", "what", "weakest", "strongest")]),
    if (nrow(tests) > 0) list(shares_by_band(tests)),
    if (nrow(tests) < nrow(curves)) list(x$tables$means)
  )
}

shares_by_band <- function(curves) {
  first <- curves[curves$band == 1, ]
  bands <- lapply(sort(unique(curves$band)), function(b) curves$share[curves$band == b])
  names(bands) <- paste0("share_band_", seq_along(bands))
  tibble::as_tibble(c(list(item = first$item, option = first$option, right = ifelse(first$right, "right", "")), bands))
}

#' @export
headline.sw_dif <- function(x) {
  items <- x$tables$items
  flagged <- items[items$flagged %in% TRUE, ]
  paste0(
    if (nrow(flagged) == 0) "None" else nrow(flagged), " of ", count_of(nrow(items), "item"),
    if (nrow(flagged) == 1 || nrow(flagged) == 0) " works" else " work", " differently by ", x$about$options$by,
    if (nrow(flagged) > 0) paste0(": ", and_list(paste0(flagged$item, " (class ", flagged$class, ")"))), "."
  )
}

#' @export
first_look.sw_dif <- function(x) {
  x$tables$items[c("scale", "item", "statistic", "p_adjusted", "effect", "class", "favours")]
}

#' @export
headline.sw_answering <- function(x) {
  flags <- x$parts$flags
  some <- sum(rowSums(flags) > 0)
  several <- length(x$parts$flagged_rows)
  if (some == 0) {
    return(paste0("None of ", count_of(nrow(flags), "case"), " has a flag."))
  }
  paste0(
    "Of ", count_of(nrow(flags), "case"), ", ", some, if (some == 1) " has" else " have", " a flag and ",
    if (several == 0) "none" else several, if (several <= 1) " has " else " have ", x$about$options$at_least, " or more."
  )
}

#' @export
first_look.sw_answering <- function(x) {
  cases <- x$tables$cases
  shown <- utils::head(cases[cases$flagged >= x$about$options$at_least, ], 15)
  keys <- setdiff(names(cases), c(names(x$parts$values), "flagged", "by"))
  c(
    list(x$tables$indices[c("index", "bound", "n", "flagged")]), if (nrow(shown) > 0) list(shown[c(keys, "flagged", "by")]),
    list(x$tables$sensitivity)
  )
}

#' @export
headline.sw_reliability <- function(x) {
  scales <- x$tables$scales
  turned <- scales[scales$looks_unreversed != "", ]
  known <- scales[!is.na(scales$alpha), ]
  paste0(
    if (nrow(turned) > 0) paste0("Check the keying first: ", and_list(paste0(unreversed_words(turned), " in ", turned$scale)),
      if (nrow(turned) == 1 && !grepl(" ", turned$looks_unreversed)) " looks" else " look", " unreversed. "),
    if (nrow(known) == 0) "Alpha could not be computed for any subscale." else paste0(
      if (all(known$coefficient == "KR-20")) "KR-20: " else "Alpha: ",
      and_list(paste(known$scale, coefficient_text(known$alpha)), 12), ".")
  )
}

#' @export
first_look.sw_reliability <- function(x) {
  table <- x$tables$scales
  last <- if (any(!is.na(table$alpha_turned))) "alpha_turned" else "omega"
  table[c("scale", "items", "n", "alpha", "conf.low", "conf.high", "verdict", last)]
}

#' @export
headline.sw_factorability <- function(x) {
  overall <- x$tables$overall
  fails <- overall$figure[grepl("^(below|above|not below)", overall$verdict)]
  paste0(
    if (length(fails) == 0) "The items can be factored. " else paste0("Look first at ", and_list(tolower(column_header(fails))), ". "),
    "Sampling adequacy ", coefficient_text(overall$value[1]), " (", overall$verdict[1], "); sphericity chi-square ", decimals(overall$value[2], 2),
    " on ", overall$df[2], " df, p ", p_words(overall$p.value[2]), "."
  )
}

#' @export
first_look.sw_factorability <- function(x) {
  items <- x$tables$items
  list(x$tables$overall[c("figure", "value", "df", "p.value", "verdict", "meaning")], items[order(items$sampling_adequacy)[seq_len(min(5,
    nrow(items)))], ])
}

#' @export
headline.sw_retention <- function(x) {
  found <- x$parts$agreement
  rules <- x$tables$rules
  next_best <- if (!is.na(found$second)) {
    paste0(" Look also at ", found$second, " (", and_list(rules$rule[which(rules$suggestion == found$second)]), ").")
  }
  paste0(found$votes, " of ", found$rules, " rules suggest ", count_of(found$first, "factor"), ".", next_best)
}

#' @export
first_look.sw_retention <- function(x) {
  fits <- x$tables$fits
  top <- max(x$tables$rules$suggestion, 2, na.rm = TRUE)
  list(x$tables$rules, fits[fits$factors <= min(top + 1, 8), c("factors", "chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr", "bic")])
}

#' @export
headline.sw_exploration <- function(x) {
  fit <- x$tables$fit
  options <- x$about$options
  one <- options$factors == 1
  what <- if (options$extraction == "pca") count_of(options$factors, "component") else count_of(options$factors, "factor")
  judged <- if (is.na(fit$chi_square)) {
    paste0("SRMR ", coefficient_text(fit$srmr))
  } else {
    paste0("chi-square ", decimals(fit$chi_square, 2), " on ", fit$df, " df, p ", p_words(fit$p.value), ", RMSEA ", coefficient_text(fit$rmsea))
  }
  paste0(
    if (x$about$status != "ok") paste0("These loadings may not be used: ", status_words(x$about$status), ". "),
    what, " (", extraction_words(options$extraction), ", ", rotation_words(options), if (options$rotation != "none") " rotation",
    ") ", if (one) "explains " else "explain ", format_number(sum(x$tables$variance$share_of_total), "percent"), " of the items' variance; ",
      judged, "."
  )
}

extraction_words <- function(extraction) {
  c(ml = "maximum likelihood", minres = "least squares", gls = "generalised least squares", paf = "principal axes", alpha = "alpha factoring",
    pca = "principal components")[[extraction]]
}

rotation_words <- function(options) {
  if (options$rotation == "none") {
    return("unrotated")
  }
  paste0(gsub("_", "-", options$rotation), if (identical(options$oblique, FALSE)) ", orthogonal")
}

# "= .022", "< .001"
p_words <- function(p) {
  if (is.na(p)) {
    return("not defined")
  }
  text <- format_number(p, "p")
  if (startsWith(text, "<")) sub("<", "< ", text) else paste("=", text)
}

# Loadings sorted by the factor an item belongs to, the small ones left blank.
#' @export
first_look.sw_exploration <- function(x) {
  factors <- colnames(x$parts$pattern)
  sorted <- sorted_pattern(x)[c("item", factors, "communality", "belongs")]
  sorted[factors] <- lapply(sorted[factors], function(l) ifelse(abs(l) < x$about$options$hide, NA, l))
  c(list(sorted), if (!is.null(x$tables$factor_correlations) && !is_orthogonal(x)) list(x$tables$factor_correlations),
    if (!is.null(x$tables$route)) list(x$tables$route))
}

sorted_pattern <- function(x) {
  items <- x$tables$items
  home <- match(items$factor, colnames(x$parts$pattern))
  x$tables$pattern[order(home, -abs(items$loading)), ]
}

is_orthogonal <- function(x) max(abs(x$parts$factor_correlations - diag(ncol(x$parts$pattern)))) < 1e-12

#' @export
headline.sw_solutions <- function(x) {
  table <- x$tables$comparison
  paste0("Explorations with ", and_list(table$factors), " factors. ",
    "Read down: fit rises with every factor; stop where factors get thin, items load nowhere, or residuals have gone.")
}

#' @export
first_look.sw_solutions <- function(x) {
  list(x$tables$comparison[c("factors", "chi_square", "df", "p.value", "rmsea", "cfi", "tli", "srmr", "share_of_total")],
    x$tables$comparison[c("factors", "clear", "crossing", "nowhere", "thin", "large_residuals")])
}

#' @export
headline.sw_stability <- function(x) {
  table <- x$tables$factors
  good <- sum(table$congruence >= limit(x$limits, "congruence")$better)
  bound <- paste0(" nearly the same in halves of the sample (congruence of at least ", bound_text(limit(x$limits, "congruence")$better), "); ")
  mean <- coefficient_text(min(table$congruence))
  if (nrow(table) == 1) {
    return(paste0("The factor ", if (good == 1) "comes" else "does not come", " back", bound, "mean ", mean, "."))
  }
  paste0(if (good == 0) "None" else good, " of ", nrow(table), " factors ", if (good <= 1) "comes" else "come", " back", bound, "lowest mean ", mean,
    ".")
}

#' @export
first_look.sw_stability <- function(x) {
  items <- x$tables$items
  unsure <- items[items$share_same < .90, ]
  c(list(x$tables$factors), if (nrow(unsure) > 0) list(unsure), if (!is.null(x$tables$groups)) list(x$tables$groups))
}

#' @export
headline.sw_scores <- function(x) {
  table <- x$tables$scales
  people <- repeated_people(x$parts$survey)
  paste0(count_of(nrow(table), "score"), " for ", if (is.null(people)) count_of(x$about$n, "case") else
    paste0(count_of(people$people, "person", "people"), " in ", x$about$n, " rows"), ": ", and_list(table$score, 12), ".",
    change_words(x$tables$change))
}

#' @export
first_look.sw_scores <- function(x) {
  c(
    list(x$tables$scales[c("score", "items", "n", "without", "mean", "sd", "lowest", "highest", "reliability", "sem")]),
    x$tables[intersect(c(if (NROW(x$tables$correlations) <= 6) "correlations", "bands", "consistency"), names(x$tables))],
    if (!is.null(x$tables$change)) list(change_counts(x$tables$change))
  )
}

# How many went up, down or stayed within error.
change_counts <- function(change) {
  of <- function(rows, verdict) sum(rows$verdict %in% verdict)
  do.call(rbind, lapply(split(change, factor(paste(change$score, change$wave), unique(paste(change$score, change$wave)))), function(rows) {
    tibble::tibble(score = rows$score[1], wave = rows$wave[1], n = sum(!is.na(rows$change)), change = mean(rows$change, na.rm = TRUE),
      up = of(rows, "up"), within_error = of(rows, "within error"), down = of(rows, "down"))
  }))
}

change_words <- function(change) {
  if (is.null(change)) {
    return("")
  }
  beyond <- mean(change$verdict[!is.na(change$verdict)] != "within error")
  paste0(" From wave to wave ", round(100 * beyond), "% of changes are beyond a score's error.")
}

#' @export
headline.sw_explanation <- function(x) {
  w <- x$tables$working
  w <- w[!duplicated(sub("_.*$", "", w$score)), ]
  paste0(and_list(paste0(w$score, ifelse(is.na(w$value), ": ", paste0(" ", trimws(formatC(w$value, format = "f", digits = 2)), " = ")), w$working),
    12), ".")
}

#' @export
first_look.sw_explanation <- function(x) x$tables
