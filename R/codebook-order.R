# The order of answers in words that no list knows: that of a factor's levels, else the one along which neighbouring words are chosen by
# people who answer alike. Always a guess.

# Columns that share words, three or more, are ordered together: list(rows, orders: list(items, words, how)). Other columns of unknown words
# are no items.
settle_orders <- function(rows, frame, foreign) {
  open <- which(startsWith(rows$labels, "? = "))
  words <- lapply(rows$labels[open], open_words)
  orders <- list()
  for (block in blocks_of_words(words)) {
    mine <- open[block]
    every <- unique_words(unlist(words[block]))
    found <- order_of_words(every, rows$item[mine], frame, foreign)
    if (is.null(found)) {
      rows$labels[mine[length(mine) < 3]] <- ""
      rows$guessed[mine[length(mine) >= 3]] <- "role labels"
      next
    }
    rows$labels[mine] <- paste(seq_along(found$words), found$words, sep = " = ", collapse = "; ")
    rows$lowest[mine] <- "1"
    rows$highest[mine] <- as.character(length(found$words))
    rows$role[mine] <- ""
    rows$guessed[mine] <- paste("labels lowest highest", ifelse(rows$missing[mine] == "", "", "missing"))
    orders <- c(orders, list(list(items = rows$item[mine], words = found$words, how = found$how)))
  }
  rows$guessed <- trimws(rows$guessed)
  list(rows = rows, orders = orders)
}

open_words <- function(labels) sub("^\\? = ", "", strsplit(labels, "; ", fixed = TRUE)[[1]])

# Places of columns more than half of whose words are those of another.
blocks_of_words <- function(words) {
  keys <- lapply(words, answer_keys)
  alike <- function(a, b) mean(keys[[a]] %in% keys[[b]]) > .5 && mean(keys[[b]] %in% keys[[a]]) > .3
  block <- seq_along(words)
  for (a in seq_along(words)) for (b in seq_len(a - 1)) if (block[a] != block[b] && alike(a, b)) block[block == block[a]] <- block[b]
  unname(split(seq_along(words), block))
}

# list(words: from low to high, how: "levels" or "answers"); NULL where nothing tells.
order_of_words <- function(words, items, frame, foreign) {
  levels <- order_of_levels(words, foreign[items])
  if (!is.null(levels)) {
    return(list(words = levels, how = "levels"))
  }
  if (length(items) < 3 || length(words) < 3) {
    return(NULL)
  }
  known <- nearest_family(words)$places
  place <- order_by_answers(frame[items], words, known)
  if (is.null(place)) NULL else list(words = words[order(place)], how = "answers")
}

# The levels of factors that all have the same, where they are ordered, or of three or more that do not just stand as in a dictionary.
order_of_levels <- function(words, foreign) {
  levels <- lapply(foreign, `[[`, "levels")
  first <- levels[[1]]
  same <- !is.null(first) && all(vapply(levels, identical, TRUE, first)) && all(answer_keys(words) %in% answer_keys(first))
  told <- same && (isTRUE(foreign[[1]]$ordered) || (length(foreign) >= 3 && !identical(first, sort(first))))
  if (told && length(first) <= 12) first
}

# The place of each word along the first dimension of a multiple correspondence analysis (Greenacre, 2007, ch. 18): of each item the scores of
# its words, items turned to agree, means by how often a word was chosen. known: places that a list has for some, NA for others; they tell which
# end is low, else words that deny do. NULL where items do not go together (mean correlation of the scores below .15).
order_by_answers <- function(columns, words, known = NULL) {
  keys <- answer_keys(words)
  chosen <- lapply(columns, function(column) match(answer_keys(as.character(column)), keys))
  indicator <- do.call(cbind, lapply(chosen, function(one) outer(one, seq_along(words), `==`) %in% TRUE |> matrix(length(one)))) + 0
  count <- colSums(indicator)
  used <- count > 0
  if (nrow(indicator) < 30 || sum(used) < 4) {
    return(NULL)
  }
  burt <- crossprod(indicator[, used]) / sqrt(outer(count[used], count[used]))
  vectors <- eigen(burt, symmetric = TRUE)$vectors[, 2:3]
  scores <- matrix(NA_real_, length(count), 2)
  scores[used, ] <- vectors / sqrt(count[used])
  profiles <- lapply(1:2, function(d) agreed_profile(matrix(scores[, d], length(words)), matrix(count, length(words)), chosen))
  taken <- profiles[[1]]
  if (sum(!is.na(known)) >= 3) {
    fit <- vapply(profiles, function(one) abs(stats::cor(one$place, known, use = "complete.obs")), 0)
    taken <- profiles[[which.max(fit)]]
    down <- stats::cor(taken$place, known, use = "complete.obs") < 0
  } else {
    down <- sum(taken$place * denies(words), na.rm = TRUE) > 0
  }
  if (!isTRUE(taken$mean_r >= .15)) {
    return(NULL)
  }
  place <- if (down) -taken$place else taken$place
  if (is.null(known)) place else anchored(place, known)
}

# scores, counts: words x items. list(place: of each word, mean_r).
agreed_profile <- function(scores, counts, chosen) {
  first <- which.max(colSums(scores^2 * counts, na.rm = TRUE))
  sign <- vapply(seq_len(ncol(scores)), function(j) {
    both <- !is.na(scores[, j]) & !is.na(scores[, first])
    if (sum(scores[both, j] * scores[both, first] * sqrt(counts[both, j] * counts[both, first])) < 0) -1 else 1
  }, 0)
  turned <- scores * rep(sign, each = nrow(scores))
  place <- rowSums(replace(turned * counts, is.na(turned), 0)) / pmax(1, rowSums(counts))
  # By the answers themselves, whichever way an item points.
  own <- vapply(seq_along(chosen), function(j) scores[chosen[[j]], j], numeric(length(chosen[[1]])))
  r <- suppressWarnings(stats::cor(own, use = "pairwise.complete.obs"))
  list(place = place, mean_r = mean(abs(r[lower.tri(r)]), na.rm = TRUE))
}

# Places that a list has stay in their order; the others come where answers put them among these.
anchored <- function(place, known) {
  anchor <- !is.na(known)
  if (sum(anchor) < 2) {
    return(place)
  }
  line <- stats::approx(sort(place[anchor]), sort(known[anchor]), place, rule = 2, ties = mean)$y
  ifelse(anchor, known, line + 1e-6 * rank(place))
}

# 1 for words that deny or lessen, in ten languages, 0 for others, centred.
denies <- function(words) {
  words_of <- shipped_table("column-words")
  told <- as.numeric(grepl(paste0("\\b(", words_of$word[words_of$kind == "deny"], ")\\b"), answer_keys(words)))
  told - mean(told)
}
