package rpmdb

import "encoding/binary"

// The table of slots begins with a head of two slots, whose fourth number says how many
// pages of slots there are. A slot says where a package lies, in units of 16 bytes. All
// numbers are little-endian.
const (
	slotsMagic = "RpmP"
	slotMagic  = "Slot"
	blobMagic  = "BlbS"
	slotSize   = 16
	slotPage   = 4096
	maxSlots   = 4096 // pages of them
)

func readSlots(file *content, take func([]byte) error) error {
	head, ok := file.part(0, 2*slotSize)
	if !ok {
		return errTorn
	}
	pages := int64(binary.LittleEndian.Uint32(head[12:]))
	if pages > maxSlots {
		return errTorn
	}
	slots, ok := file.part(0, pages*slotPage)
	if !ok {
		return errTorn
	}
	for at := 2 * slotSize; at+slotSize <= len(slots); at += slotSize {
		slot := slots[at:]
		if string(slot[:4]) != slotMagic {
			return errTorn
		}
		number, block := binary.LittleEndian.Uint32(slot[4:]), int64(binary.LittleEndian.Uint32(slot[8:]))*slotSize
		if number == 0 || block == 0 {
			continue // free
		}
		blob, ok := file.part(block, slotSize)
		if !ok || string(blob[:4]) != blobMagic || binary.LittleEndian.Uint32(blob[4:]) != number {
			continue
		}
		if header, ok := file.part(block+slotSize, int64(binary.LittleEndian.Uint32(blob[12:]))); ok {
			if err := take(header); err != nil {
				return err
			}
		}
	}
	return nil
}
