;; Twin of `read` in delay-line.ts: two taps to a register, both sides with the same weights. Same operations in the same
;; order, so the same bits. All places are byte offsets into `memory`.
(module
  (import "o" "memory" (memory 1))
  (func (export "read") (param $delays i32) (param $left i32) (param $right i32) (param $frames i32) (param $ringL i32) (param $ringR i32) (param $mask i32) (param $at i32) (param $table i32) (param $age f64)
    (local $delay v128) (local $whole v128) (local $row i32) (local $a i32) (local $b i32) (local $w v128) (local $l v128) (local $r v128) (local $limit v128)
    (local.set $limit (f64x2.splat (local.get $age)))
    (loop $each
      ;; Whole numbers below 2^31 stand in the low half of what 2^52 · 1.5 makes of them. In vectors, although of one number:
      ;; their rounding does not wait for what the register held before.
      (local.set $delay (v128.load64_splat (local.get $delays)))
      (local.set $whole (f64x2.floor (local.get $delay)))
      ;; a row of the table is 64 bytes
      (local.set $row (i32.add (local.get $table) (i32.shl (i32x4.extract_lane 0 (f64x2.add (v128.const f64x2 6755399441055744 6755399441055744) (f64x2.floor
        (f64x2.add (f64x2.mul (f64x2.sub (v128.const f64x2 1 1) (f64x2.sub (local.get $delay) (local.get $whole))) (v128.const f64x2 1024 1024)) (v128.const f64x2 0.5 0.5))))) (i32.const 6))))
      (local.set $a (i32.shl (i32.and (i32.sub (local.get $at) (i32x4.extract_lane 0 (f64x2.add (v128.const f64x2 6755399441055744 6755399441055744) (local.get $whole)))) (local.get $mask)) (i32.const 2)))
      (local.set $b (i32.add (local.get $ringR) (local.get $a)))
      (local.set $a (i32.add (local.get $ringL) (local.get $a)))
      (local.set $w (v128.load (local.get $row)))
      (local.set $l (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $a)))))
      (local.set $r (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $b)))))
      (local.set $w (v128.load offset=16 (local.get $row)))
      (local.set $l (f64x2.add (local.get $l) (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero offset=8 (local.get $a))))))
      (local.set $r (f64x2.add (local.get $r) (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero offset=8 (local.get $b))))))
      (local.set $w (v128.load offset=32 (local.get $row)))
      (local.set $l (f64x2.add (local.get $l) (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero offset=16 (local.get $a))))))
      (local.set $r (f64x2.add (local.get $r) (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero offset=16 (local.get $b))))))
      (local.set $w (v128.load offset=48 (local.get $row)))
      (local.set $l (f64x2.add (local.get $l) (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero offset=24 (local.get $a))))))
      (local.set $r (f64x2.add (local.get $r) (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero offset=24 (local.get $b))))))
      ;; even and odd taps of each side come together; what is older than all that was written is silence
      (local.set $w (v128.and (f64x2.le (local.get $delay) (local.get $limit)) (f64x2.add
        (i8x16.shuffle 0 1 2 3 4 5 6 7 16 17 18 19 20 21 22 23 (local.get $l) (local.get $r))
        (i8x16.shuffle 8 9 10 11 12 13 14 15 24 25 26 27 28 29 30 31 (local.get $l) (local.get $r)))))
      (v128.store64_lane 0 (local.get $left) (local.get $w))
      (v128.store64_lane 1 (local.get $right) (local.get $w))
      (local.set $limit (f64x2.add (local.get $limit) (v128.const f64x2 1 1)))
      (local.set $delays (i32.add (local.get $delays) (i32.const 8)))
      (local.set $left (i32.add (local.get $left) (i32.const 8)))
      (local.set $right (i32.add (local.get $right) (i32.const 8)))
      (local.set $at (i32.add (local.get $at) (i32.const 1)))
      (br_if $each (local.tee $frames (i32.sub (local.get $frames) (i32.const 1)))))))
