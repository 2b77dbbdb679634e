# Numbers that stand for no answer, as the items of a subscale show them together.

# Numbers beyond a gap that nobody fills are codes, where they are usual ones and rare: 8 and 9 after 1 to 5, 9 after 1 to 7.
settle_codes <- function(rows, frame) {
  numeric <- which(rows$role != "aside" & rows$lowest != "" & grepl("lowest", rows$guessed) & rows$labels == "")
  for (mine in split(numeric, rows$scale[numeric])) {
    values <- unlist(lapply(rows$item[mine], function(item) given_numbers(frame[[item]], rows$missing[match(item, rows$item)])))
    codes <- codes_beyond_gap(values)
    if (length(codes) == 0) next
    for (i in mine) {
      own <- given_numbers(frame[[rows$item[i]]], rows$missing[i])
      if (all(own %in% codes)) next
      answers <- range(setdiff(own, codes))
      rows$missing[i] <- trimws(paste(rows$missing[i], paste(format_answer(codes), collapse = " ")))
      rows[i, c("lowest", "highest")] <- as.list(format_answer(answers))
      rows$guessed[i] <- paste(unique(c(strsplit(rows$guessed[i], " ")[[1]], "missing")), collapse = " ")
    }
  }
  rows
}

given_numbers <- function(column, missing) {
  values <- if (is.numeric(column)) column else suppressWarnings(as.numeric(as.character(column)))
  codes <- suppressWarnings(as.numeric(missing_codes(missing)$code))
  values[!is.na(values) & !values %in% codes]
}

# values: all that people gave to items of one kind.
codes_beyond_gap <- function(values) {
  seen <- sort(unique(values))
  if (length(values) < 30 || length(seen) < 4 || any(seen != round(seen))) {
    return(numeric())
  }
  gap <- which(diff(seen) > 1)[1]
  if (is.na(gap) || gap < 3) {
    return(numeric())
  }
  beyond <- seen[-seq_len(gap)]
  wide <- beyond[1] - seen[gap] > 2 || (beyond[1] %in% 8:9 && length(beyond) <= 2 && seen[gap] <= 7)
  rare <- mean(values >= beyond[1]) < .2
  if (wide && rare && all(beyond %in% c(6:9, 66, 77, 88, 90:99, 666, 777, 888, 990:999, 9999))) beyond else numeric()
}
