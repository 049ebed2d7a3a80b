# SPDX-License-Identifier: MIT
# What an old machine's firmware starts, by cylinder, head and sector alone: the
# code of block 0, that of a FAT volume's boot block, and the program that it
# loads, the first file of the root directory.
	.intel_syntax noprefix
	.code16

# Block 0: moves out of the way, and loads the active partition's first sector
# from the place that its entry tells.
	.section .block0, "ax"
	cli
	xor	ax, ax
	mov	ss, ax
	mov	sp, 0x7c00
	mov	ds, ax
	mov	es, ax
	sti
	cld
	mov	si, 0x7c00
	mov	di, 0x600
	mov	cx, 256
	rep movsw
	ljmp	0, 0x600 + (moved - .block0)
moved:
	mov	si, 0x600 + 446
	mov	cx, 4
look:
	cmp	byte ptr [si], 0x80
	je	active
	add	si, 16
	loop	look
	int	0x18
active:
	mov	dl, 0x80
	mov	dh, [si + 1]		# head
	mov	cx, [si + 2]		# sector and cylinder, as int 13h wants them
	mov	bx, 0x7c00
	mov	ax, 0x0201
	int	0x13
	jc	stop
	cmp	word ptr [0x7dfe], 0xaa55
	jne	stop
	ljmp	0, 0x7c00
stop:
	hlt
	jmp	stop

# The boot block: its parameters are the volume's own.
	.section .boot, "ax"
	jmp	begin
	nop
	.zero	59
begin:
	xor	ax, ax
	mov	ds, ax
	mov	es, ax
	cld
	mov	al, [0x7c10]		# tables
	mul	word ptr [0x7c16]	# sectors of each
	add	ax, [0x7c1c]		# sectors ahead of the volume
	add	ax, [0x7c0e]		# and of the tables
	mov	bx, 0x500
	push	ax
	call	fetch			# the root directory
	mov	si, offset name
	sub	si, offset .boot
	add	si, 0x7c00
	mov	di, 0x500
	mov	cx, 11
	repe cmpsb
	jne	halt
	cmp	word ptr [0x51a], 2	# in the first cluster
	jne	halt
	pop	ax
	mov	cx, [0x7c11]		# entries of the root directory, 16 a sector
	shr	cx, 4
	add	ax, cx
	mov	cx, [0x51c]		# bytes of the file
	add	cx, 511
	shr	cx, 9
	mov	bx, 0x8000
next:
	push	cx
	push	ax
	call	fetch
	pop	ax
	pop	cx
	inc	ax
	add	bx, 512
	loop	next
	ljmp	0, 0x8000
halt:
	hlt
	jmp	halt
# The sector ax, to bx: by the sectors of a track and the heads that the boot
# block tells.
fetch:
	xor	dx, dx
	div	word ptr [0x7c18]
	mov	cl, dl
	inc	cl			# sectors count from 1
	xor	dx, dx
	div	word ptr [0x7c1a]
	mov	dh, dl			# head
	mov	ch, al			# cylinder
	shl	ah, 6
	or	cl, ah
	mov	dl, 0x80
	mov	ax, 0x0201
	int	0x13
	jc	halt
	ret
name:
	.ascii	"WINCHIO SYS"
	.org	510
	.byte	0x55, 0xaa

# The program: it has a second sector, and tells so on the serial line.
	.section .program, "ax"
	mov	si, 0x8000 + (said - .program)
say:
	lodsb
	test	al, al
	jz	off
	mov	ah, al
	mov	dx, 0x3fd
wait:
	in	al, dx
	test	al, 0x20
	jz	wait
	mov	al, ah
	mov	dx, 0x3f8
	out	dx, al
	jmp	say
off:
	mov	al, 1
	out	0xf4, al		# the machine ends
	hlt
	jmp	off
	.org	1000
said:
	.asciz	"The winch has started.\r\n"
