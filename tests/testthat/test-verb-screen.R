survey <- sw_demo("plotholders")
draft <- sw_demo("plotholders", codebook = "draft")
quiz <- sw_demo("plantcare")

test_that("a codebook without an item to analyse is refused, with what to do", {
  data <- data.frame(q1 = rep(c("A", "B", "C"), 9), q2 = rep(c("B", "C", "A"), 9), q3 = rep(c("C", "A", "B"), 9))
  test <- sw_draft_codebook(data)
  expect_error(sw_screen(sw_survey(data, test)), "right option in `answer`: q1, q2 and q3", class = "scalewort_error_input")
})

test_that("the planted faults are all found", {
  keying <- tidy(sw_keying(draft), "items")
  expect_equal(keying$item[keying$agrees == "no"], "kin3")
  expect_equal(keying$item[keying$agrees == "unclear"], "calm6")
  expect_equal(tidy(sw_keying(survey))$disagree, rep("", 4))
  expect_equal(tidy(sw_keying(quiz))$disagree, "q08")
  curves <- tidy(sw_option_curves(quiz))
  expect_equal(curves$item[curves$what == "key looks wrong"], "q08")
  expect_equal(curves$option[curves$what == "key looks wrong"], "C")
  bias <- tidy(sw_dif(survey))
  expect_true("soil5" %in% bias$item[bias$flagged])
  expect_equal(bias$class[bias$item == "soil5"], "C")
  expect_equal(bias$favours[bias$item == "soil5"], "north")
  quiz_bias <- tidy(sw_dif(quiz))
  expect_equal(quiz_bias$item[quiz_bias$flagged], "q10")
  expect_equal(quiz_bias$favours[quiz_bias$item == "q10"], "north")
  answering <- sw_answering(survey, time = "seconds")
  flagged <- survey$data$id[answering$parts$flagged_rows]
  straight <- apply(survey$data[survey$codebook$items$item], 1, function(row) length(unique(row)) == 1)
  expect_true(all(survey$data$id[straight] %in% flagged))
  expect_gte(length(flagged), 8)
})

test_that("a clean survey raises flags at no more than the nominal rate", {
  flagged <- vapply(1:20, function(seed) {
    clean <- small_survey(600, seed = 500 + seed)
    clean$data$district <- rep(c("x", "y"), 300)
    bias <- tidy(sw_dif(clean, by = "district"))
    answering <- sw_answering(clean)
    c(
      nrow(tidy(sw_screen(clean), "flags")), sum(bias$flagged), mean(answering$parts$flags[, "distance_p"]) - .05,
      sum(tidy(sw_keying(clean))$disagree != "")
    )
  }, numeric(4))
  expect_equal(sum(flagged[1, ]), 0)
  expect_lte(sum(flagged[2, ]), 20 * .05 * 2 + 3)
  expect_lt(mean(flagged[3, ]), .002)
  expect_equal(sum(flagged[4, ]), 0)
})

test_that("screening's tables add up", {
  screening <- sw_screen(survey)
  options <- tidy(screening, "options")
  items <- tidy(screening)
  expect_equal(as.vector(tapply(options$n, factor(options$item, items$item), sum)), items$n)
  missing <- tidy(screening, "missing")
  raw <- survey$data[items$item]
  expect_equal(missing$skipped, unname(colSums(raw == -9)))
  expect_equal(missing$unseen, unname(colSums(raw == -8)))
  expect_equal(sum(tidy(screening, "missing_cases")$cases), 640)
  expect_equal(sum(tidy(screening, "patterns")$cases) <= 640, TRUE)
  expect_equal(tidy(screening, "patterns")$cases[1], sum(rowSums(raw < 0) == 0))
  expect_equal(tidy(screening, "missing_test")$p.value, core("core_little")(core("source_rows")(survey))$p)
  expect_equal(tidy(screening, "multivariate")$n[1], sum(rowSums(raw < 0) == 0))
  easy <- tidy(sw_screen(quiz, order = "easiness"))
  expect_false(is.unsorted(rev(easy$difficulty)))
  expect_null(sw_screen(survey, patterns = FALSE)$tables$patterns)
})

test_that("skewness' standard error is the textbook one", {
  normality <- tidy(sw_screen(survey), "normality")
  n <- normality$n[1]
  expect_equal(normality$skewness_se[1], sqrt(6 * n * (n - 1) / ((n - 2) * (n + 1) * (n + 3))))
})

test_that("option shares add to one in every band, and a rest score leaves the item out", {
  curves <- tidy(sw_option_curves(quiz, bands = 4), "curves")
  sums <- tapply(curves$share, paste(curves$item, curves$band), sum)
  expect_equal(as.vector(sums), rep(1, length(sums)))
  total <- tidy(sw_option_curves(quiz, score = "total"), "curves")
  rest <- tidy(sw_option_curves(quiz, score = "rest"), "curves")
  gain <- function(c) mean(c$share[c$right & c$band == 3] - c$share[c$right & c$band == 1])
  expect_gt(gain(total), gain(rest))
})

test_that("three groups get the generalised test", {
  three <- survey
  three$data$place <- rep_len(c("a", "b", "c"), 640)
  out <- tidy(sw_dif(three, by = "place"))
  expect_equal(unique(out$test), "generalised")
  expect_false(any(out$flagged))
  expect_error(sw_dif(survey, by = "id"), "are these groups", class = "scalewort_error_input")
  expect_error(sw_dif(survey, by = "wave"), "only one group", class = "scalewort_error_input")
  expect_error(sw_dif(survey, by = "town"), class = "scalewort_error_input")
  few <- survey
  few$data$place <- ifelse(seq_len(640) <= 5, "x", "y")
  expect_error(sw_dif(few, by = "place"), "x: 5", class = "scalewort_error_input")
})

test_that("answering drops nobody and shows what setting aside would do", {
  answering <- sw_answering(survey, time = "seconds")
  expect_equal(nrow(tidy(answering, "cases")), 640)
  sensitivity <- tidy(answering, "sensitivity")
  without <- sw_drop(survey, cases = seq_len(640) %in% answering$parts$flagged_rows, reason = "several flags")
  expect_equal(sensitivity$alpha, tidy(sw_reliability(survey))$alpha)
  expect_equal(sensitivity$alpha_flagged, tidy(sw_reliability(without))$alpha)
  effect <- tidy(answering, "effect")
  shown <- utils::capture.output(print(answering))
  for (people in c("everyone", "without flagged")) {
    of <- effect[[if (people == "everyone") people else "without"]]
    line <- grep(paste0("^  ", people, " "), shown, value = TRUE)
    expect_equal(scan(text = sub(people, "", line), quiet = TRUE), c(round(of[1:2], 3), of[3]))
    expect_match(line, "\\.\\d{3}  +\\.\\d{3}  +\\d+$")
  }
  expect_error(sw_answering(survey, time = "id"), "numeric", class = "scalewort_error_input")
  expect_error(sw_answering(survey, time = "second"), "seconds", class = "scalewort_error_input")
  robust <- sw_answering(survey, robust = TRUE)
  expect_gte(sum(robust$parts$flags[, "distance_p"]), sum(answering$parts$flags[, "distance_p"]))
})

test_that("items without an item-rest correlation are not said to be negative", {
  set.seed(5)
  data <- as.data.frame(matrix(sample(1:5, 40 * 6, TRUE), 40))
  data$V6 <- 3
  data$V5[1:39] <- NA
  survey <- sw_survey(data, data.frame(item = names(data), scale = rep(c("a", "b"), each = 3), lowest = 1, highest = 5))
  screening <- sw_screen(survey)
  expect_true(all(is.na(tidy(screening)$item_rest_r[4:6])))
  expect_false(any(grepl("Keyed against", screening$notes)))
  expect_match(sw_keying(survey)$notes, "Nothing can be said of b", all = FALSE)
})

test_that("when nobody has a flag the answer is one sentence", {
  clean <- small_survey(60, seed = 12)
  found <- sw_answering(clean, limits = sw_limits(person_sd = 0, longest_run_share = 1, distance_p = 0, contradiction = 1e6))
  expect_equal(sum(found$parts$flags[, colnames(found$parts$flags) != "page_variance"]), 0)
  expect_lte(sum(found$parts$straight), 2)
})

test_that("a subscale that measures two things is said to", {
  set.seed(81)
  f <- matrix(rnorm(1200), 600)
  x <- cbind(f[, 1] + matrix(rnorm(1800, 0, .5), 600), f[, 2] + matrix(rnorm(1800, 0, .5), 600), f[, 1] - f[, 2] + rnorm(600, 0, .5))
  answers <- as.data.frame(apply(x, 2, function(v) pmin(5, pmax(1, round(3 + v)))))
  mixed <- sw_survey(answers, data.frame(item = names(answers), scale = "s", lowest = 1, highest = 5))
  expect_match(sw_keying(mixed)$notes, "no set of reversals makes all correlations positive", all = FALSE)
})

test_that("the figures of screening show what the tables say", {
  screening <- sw_screen(draft)
  bars <- ggplot2::layer_data(ggplot2::autoplot(screening, "options"), 2)
  expect_equal(sum(bars$xmax - bars$xmin), 22)
  expect_equal(nrow(ggplot2::layer_data(ggplot2::autoplot(screening, "histograms"))), 110)
  expect_equal(nrow(ggplot2::layer_data(ggplot2::autoplot(screening, "missing"))), sum(tidy(screening)$missing))
  clustered <- ggplot2::autoplot(screening, order = "clustered")
  expect_setequal(levels(clustered$data$column), tidy(screening)$item)
  curves <- sw_option_curves(quiz)
  expect_equal(nrow(ggplot2::layer_data(ggplot2::autoplot(curves, items = "q08"), 1)), 12)
  expect_length(core("item_pages")(curves), 16)
  pdf <- withr::local_tempfile(fileext = ".pdf")
  sw_write(curves, pdf)
  expect_gt(file.size(pdf), 5000)
  expect_equal(nrow(ggplot2::layer_data(ggplot2::autoplot(sw_dif(survey), items = "soil5"), 2)), 10)
  expect_equal(nrow(ggplot2::layer_data(ggplot2::autoplot(sw_answering(survey)), 1)), 640)
  for (figure in list(ggplot2::autoplot(curves), ggplot2::autoplot(sw_dif(survey)), ggplot2::autoplot(screening, "missing"))) {
    expect_true(nzchar(ggplot2::get_alt_text(figure)))
  }
  expect_error(ggplot2::autoplot(screening, "pie"), class = "scalewort_error_input")
})
