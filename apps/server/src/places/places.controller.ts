import { Controller } from '@nestjs/common';
import type {
  AlongRow,
  BinRow,
  MoveItemsRequest,
  PlaceAccessRequest,
  PlaceAccessView,
  PlaceRow,
  RenameItemRequest,
} from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { BinService } from './bin.service.js';
import { PlaceAccessService } from './place-access.service.js';
import { PlacesService } from './places.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class PlacesController {
  constructor(
    private readonly places: PlacesService,
    private readonly access: PlaceAccessService,
    private readonly bin: BinService,
  ) {}

  @Serve('GET /api/places')
  list(@Caller() person: Person): Promise<PlaceRow[]> {
    return this.places.list(person);
  }

  @Serve('POST /api/places')
  create(@Input() { path }: { path: string }, @Caller() person: Person): Promise<void> {
    return this.places.create(path, person);
  }

  @Serve('POST /api/places/move')
  move(@Input() { from, to }: { from: string; to: string }, @Caller() person: Person): Promise<void> {
    return this.places.move(from, to, person);
  }

  @Serve('GET /api/places/access')
  viewAccess(@Input() { place }: { place: string }, @Caller() person: Person): Promise<PlaceAccessView> {
    return this.access.view(place, person);
  }

  @Serve('PUT /api/places/access')
  changeAccess(@Input() request: PlaceAccessRequest, @Caller() person: Person): Promise<PlaceAccessView> {
    return this.access.change(request, person);
  }

  @Serve('GET /api/places/papers')
  papersOutside(@Input() { place }: { place: string }, @Caller() person: Person): Promise<AlongRow[]> {
    return this.places.papersOutside(place, person);
  }

  @Serve('POST /api/items/along')
  alongWith(
    @Input() request: Pick<MoveItemsRequest, 'items' | 'place'>,
    @Caller() person: Person,
  ): Promise<AlongRow[]> {
    return this.places.alongWith(request, person);
  }

  @Serve('GET /api/places/bin')
  listBin(@Caller() person: Person): Promise<BinRow[]> {
    return this.bin.list(person);
  }

  @Serve('POST /api/places/bin')
  putIntoBin(@Input() { place }: { place: string }, @Caller() person: Person): Promise<void> {
    return this.bin.put(place, person);
  }

  @Serve('POST /api/places/restore')
  restore(@Input() { place }: { place: string }, @Caller() person: Person): Promise<void> {
    return this.bin.restore(place, person);
  }

  @Serve('POST /api/items/move')
  moveItems(@Input() request: MoveItemsRequest, @Caller() person: Person): Promise<void> {
    return this.places.moveItems(request, person);
  }

  @Serve('POST /api/items/rename')
  rename(@Input() request: RenameItemRequest, @Caller() person: Person): Promise<void> {
    return this.places.rename(request, person);
  }
}
